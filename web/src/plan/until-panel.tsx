import type { UntilStep } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { ConditionEditor } from '../conditions/index.ts';
import { SavedText } from '../ui/saved-text.tsx';
import { ArmName } from './arm-name.tsx';
import { PeriodParts } from './period-parts.tsx';

/** What is waited for, and how long at most. */
export function UntilPanel({ step }: { step: UntilStep }) {
  const doc = useApp((s) => s.draft.doc);
  const dispatch = useAct();
  const set = (field: string, value: unknown) => dispatch(edit([{ type: 'step.set', step: step.id, field, value }]));
  return (
    <div className="flex flex-col gap-3">
      <SavedText
        label="Name of the wait"
        value={step.name}
        placeholder="Name, such as “Until the lesson is opened”"
        save={(name) => set('name', name)}
      />
      <h3 className="font-sans font-semibold">Waits until somebody</h3>
      <ConditionEditor
        value={step.condition}
        scope="visit"
        doc={doc}
        sentence={(words) => `Goes on as soon as whoever is here ${words}. Who has done so already goes on at once.`}
        none=""
        save={(c) => c && set('condition', c)}
      />
      <p className="text-[15px] leading-9">
        At most <PeriodParts amount={step.amount} unit={step.unit} set={set} />, then on the other arm.
      </p>
      <ArmName step={step} arm={step.arms[0].id} label="Name when it happened" such="Read it" />
      <ArmName step={step} arm={step.arms[1].id} label="Name when it did not" such="Not in time" />
    </div>
  );
}
