import { Plus, Trash2 } from 'lucide-react';
import { answerWords, MAX_ARMS, type SplitStep } from '@ascenso/core';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Button, IconButton } from '../ui/index.tsx';
import { newId, useNames } from '../ui/names.ts';
import { SavedText } from '../ui/saved-text.tsx';
import { NumberInput } from '../ui/number-field.tsx';
import { ArmName } from './arm-name.tsx';
import { SplitRuleSentence } from './split-rule.tsx';

/** Shares of a split and how it is decided. Who takes which is a lot, drawn once for each person. */
export function SplitPanel({ step }: { step: SplitStep }) {
  const names = useNames(useApp((s) => s.draft.doc));
  const dispatch = useAct();
  const add = () =>
    dispatch(
      edit([
        {
          type: 'arm.insert',
          step: step.id,
          index: step.arms.length,
          arm: { id: newId(), weight: step.arms.at(-1)?.weight ?? 50, steps: [] },
        },
      ]),
    );
  return (
    <div className="flex flex-col gap-3">
      <SavedText
        label="Name of the split"
        value={step.name}
        placeholder="Name, such as “Short or long”"
        save={(name) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'name', value: name }]))}
      />
      {step.arms.map((arm, i) => (
        <div key={arm.id} className="flex flex-wrap items-center gap-2">
          <span className="w-14">Arm {i + 1}</span>
          <NumberInput
            label={`Share of arm ${i + 1}`}
            least={0}
            most={1000}
            value={arm.weight}
            save={(weight) => dispatch(edit([{ type: 'arm.weigh', arm: arm.id, weight }]))}
            className="!w-20"
          />
          <span className="flex-1 text-ink-2">= {answerWords(step, arm.id, names)} of the people</span>
          {step.arms.length > 2 && (
            <IconButton
              name={`Delete arm ${i + 1}`}
              onClick={() => dispatch(edit([{ type: 'arm.remove', arm: arm.id }]))}
            >
              <Trash2 size={14} />
            </IconButton>
          )}
          <div className="w-full">
            <ArmName step={step} arm={arm.id} label={`Name of arm ${i + 1}`} such={i % 2 ? 'Long' : 'Short'} />
          </div>
        </div>
      ))}
      {step.arms.length < MAX_ARMS && (
        <Button tone="quiet" className="self-start" onClick={add}>
          <Plus size={14} aria-hidden="true" />
          Add an arm
        </Button>
      )}
      <SplitRuleSentence step={step} />
      <p className="text-ink-2">
        Taken by lot, the same for one person every time. A changed share moves only people who get here later; an arm
        of 0 gets nobody new.
      </p>
    </div>
  );
}
