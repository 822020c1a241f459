import { Mail } from 'lucide-react';
import { memo, useDeferredValue, useEffect, useRef, type RefObject } from 'react';
import {
  dayWords,
  findStep,
  previewTemplate,
  rateWords,
  type reaches,
  stepWords,
  type EmailStep,
  type Names,
  type Step,
} from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { useNumbersQuery } from '../numbers/endpoints.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { TemplateText } from '../composer/template-text.tsx';
import { Button, number } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';
import { RehearsedBehaviour } from '../rehearsal/behaviour.tsx';
import { ActionPanel } from './action-panel.tsx';
import { BranchPanel } from './branch-panel.tsx';
import { SplitPanel } from './split-panel.tsx';
import { UntilPanel } from './until-panel.tsx';
import { TriggerPanel } from './trigger-panel.tsx';
import { ForWhom, Makes, ThenPoints, ThenTag } from './email-parts.tsx';
import { WaitPanel } from './wait-panel.tsx';
import { WindowParts } from './window-parts.tsx';

function EmailPanel({ id, step, open }: { id: string; step: EmailStep; open: (id: string) => void }) {
  const around = useAround(['senders', 'style']);
  const { data: numbers } = useNumbersQuery({ id });
  const dispatch = useAct();
  const set = (field: string, value: unknown) => dispatch(edit([{ type: 'step.set', step: step.id, field, value }]));
  const sender = around?.senders.find((s) => s.id === step.email.sender) ?? around?.senders.find((s) => s.isDefault);
  const n = numbers?.steps[step.id];
  return (
    <>
      <div className="rounded-sheet border border-line bg-paper-2 p-3">
        <p className="mb-2 text-[12px] text-ink-2">How it lands on a phone</p>
        <div className="flex gap-2.5">
          <span
            aria-hidden="true"
            className="flex size-8 shrink-0 items-center justify-center rounded-full bg-spruce-tint font-bold text-spruce-deep"
          >
            {sender?.name[0] ?? '?'}
          </span>
          <div className="min-w-0">
            <p className="truncate font-semibold">{sender?.name ?? 'No sender'}</p>
            <p className="truncate">
              <TemplateText source={step.email.subject} empty="No subject yet" />
            </p>
            <p className="truncate text-ink-2">
              <TemplateText source={previewTemplate(step.email)} empty="No preview text" />
            </p>
          </div>
        </div>
      </div>
      <Button tone="main" onClick={() => open(step.id)}>
        <Mail size={15} aria-hidden="true" />
        Open in composer
      </Button>
      <div>
        <p className="mb-1 text-[12px] text-ink-2">Internal name</p>
        <SavedText label="Internal name" value={step.name} save={(v) => set('name', v)} />
      </div>
      <section>
        <h3 className="mb-1.5 font-sans font-semibold">What this step does</h3>
        <p className="text-[15px] leading-8">
          Goes out <b className="font-semibold">straight away</b>,{' '}
          <WindowParts window={step.window} save={(w) => set('window', w)} />
          {step.window?.zone ? '' : ' in the reader’s zone'}, to <ForWhom step={step} save={(c) => set('forWhom', c)} />
          , and makes{' '}
          <Makes
            step={step}
            save={(offer) => dispatch(edit([{ type: 'email.set', step: step.id, field: 'offer', value: offer }]))}
          />
          ; then <ThenTag tag={step.thenTag} save={(tag) => set('thenTag', tag)} /> and{' '}
          <ThenPoints points={step.thenPoints} save={(points) => set('thenPoints', points)} />.
        </p>
      </section>
      <RehearsedBehaviour step={step} />
      <section>
        <h3 className="mb-1.5 flex justify-between font-sans font-semibold">
          So far <span className="font-normal text-ink-2">all versions</span>
        </h3>
        {n && n.sent > 0 ? (
          <dl className="grid grid-cols-3 gap-2">
            {[
              [rateWords(n.opened, n.sent), `opened, of ${number(n.sent)}`],
              [rateWords(n.clicked, n.sent), `clicked, of ${number(n.sent)}`],
              [number(n.left), 'left the list'],
            ].map(([v, t]) => (
              <div key={t}>
                <dd className="font-head text-[18px] font-bold">{v}</dd>
                <dt className="text-[12px] text-ink-2">{t}</dt>
              </div>
            ))}
          </dl>
        ) : (
          <p className="text-ink-2">Not sent to anybody yet.</p>
        )}
      </section>
    </>
  );
}

/** Names of the kinds of steps, as the settings are headed. */
const KINDS: Record<Step['kind'], string> = {
  email: 'Email',
  wait: 'Wait',
  branch: 'Branch',
  split: 'Split',
  until: 'Wait until',
  action: 'Action',
  leave: 'Leave',
};

interface SettingsProps {
  id: string;
  /** Absent where it is the start that is selected. */
  step: Step | undefined;
  title: string;
  /** Its day, in words. */
  day: string | null;
  open: (id: string) => void;
}

const Settings = memo(function Settings({ id, step, title, day, open }: SettingsProps) {
  const dispatch = useAct();
  return (
    <>
      <div>
        <p className="text-[12px] text-ink-2">
          {step ? KINDS[step.kind] : 'Trigger'}
          {day ? ` · ${day}` : ''}
        </p>
        <h2 className="text-[17px] leading-snug font-bold">{title}</h2>
      </div>
      {!step && <TriggerPanel />}
      {step?.kind === 'email' && <EmailPanel key={step.id} id={id} step={step} open={open} />}
      {step?.kind === 'wait' && <WaitPanel step={step} />}
      {step?.kind === 'action' && <ActionPanel step={step} />}
      {step?.kind === 'branch' && <BranchPanel step={step} />}
      {step?.kind === 'split' && <SplitPanel step={step} />}
      {step?.kind === 'until' && <UntilPanel step={step} />}
      {step?.kind === 'leave' && (
        <p className="text-ink-2">
          Whoever gets here leaves the sequence. What comes after the branch is not for them.
        </p>
      )}
      {step && (
        <section>
          <h3 className="mb-1.5 font-sans font-semibold">Note</h3>
          <SavedText
            label="Private note"
            area
            value={step.note}
            placeholder="Only for you and your team"
            save={(note) => dispatch(edit([{ type: 'step.set', step: step.id, field: 'note', value: note }]))}
          />
        </section>
      )}
    </>
  );
});

/** Settings that want the focus: of a step or of the start, in one part of them or in the first. */
export interface Wanted {
  step: string;
  part?: 'goal' | 'exit' | undefined;
}

/** Puts the focus into the settings that are on the screen. */
export const focusSettings = ({ part }: Pick<Wanted, 'part'>) =>
  document
    .getElementById('inspector')
    ?.querySelector<HTMLElement>(part ? `#entrance-${part} :is(button, input)` : 'input, select, button')
    ?.focus();

/**
 * What the selected step does, as settings. The plan goes first: they follow it by a moment, and take nothing meanwhile, since
 * they would still be those of another step.
 */
export function Inspector({
  id,
  selected,
  names,
  reach,
  open,
  wanted,
}: {
  id: string;
  selected: string | null;
  names: Names;
  reach: ReturnType<typeof reaches>;
  open: (id: string) => void;
  /** What wants the focus once it is there. */
  wanted: RefObject<Wanted | null>;
}) {
  const doc = useApp((s) => s.draft.doc);
  const stepOf = (of: string) => (doc && of !== 'trigger' ? findStep(doc, of)?.step : undefined);
  const target = (selected !== null && stepOf(selected)?.id) || 'trigger';
  const shown = useDeferredValue(target);
  // One that has just been deleted is still shown until the next is there.
  const last = useRef<Step | undefined>(undefined);
  const step = stepOf(shown) ?? (shown === target ? undefined : last.current);
  useEffect(() => {
    last.current = step;
    if (wanted.current === null || wanted.current.step !== shown) return;
    focusSettings(wanted.current);
    wanted.current = null;
  });
  if (!doc) return null;
  const at = step ? reach.get(step.id) : null;
  return (
    <aside
      id="inspector"
      aria-label="Settings"
      inert={shown !== target}
      className="flex w-[330px] shrink-0 flex-col gap-4 overflow-y-auto border-l border-line bg-sheet p-4"
    >
      <Settings
        id={id}
        step={step}
        title={step ? stepWords(step, names) : 'How it starts'}
        day={at ? dayWords(at) : null}
        open={open}
      />
    </aside>
  );
}
