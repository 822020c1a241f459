import { FlaskConical } from 'lucide-react';
import { findStep, type EmailStep, type Sequence, type SplitRule, type SplitStep } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { keepOfTest, testEmail } from '../plan/actions.ts';
import { SplitRuleSentence } from '../plan/split-rule.tsx';
import { Button } from '../ui/index.tsx';

/** A tenth gets one of the two, and the others, hours later, the one that was ahead. */
const A_TENTH: SplitRule = { measure: 'clicked', first: 10, after: { amount: 4, unit: 'hours' } };

/** The split whose arm an email stands in; null where it is no test. */
export function testOf(doc: Sequence, step: EmailStep): SplitStep | null {
  const parent = findStep(doc, step.id)?.parent?.step;
  return parent?.kind === 'split' ? parent : null;
}

/** Two versions of a send: begun with one button, decided by a sentence. */
export function TestPart({ doc, step, show }: { doc: Sequence; step: EmailStep; show: (step: string) => void }) {
  const dispatch = useAct();
  const test = testOf(doc, step);
  if (!test)
    return (
      <div className="flex flex-wrap items-center gap-3">
        <Button
          onClick={() => {
            const copy = dispatch(testEmail(step.id, A_TENTH));
            if (copy) show(copy);
          }}
        >
          <FlaskConical size={15} aria-hidden="true" />
          Try two versions on a part first
        </Button>
        <span className="text-ink-2">Another subject, sender or content; the others get the better one.</span>
      </div>
    );
  return (
    <>
      <SplitRuleSentence step={test} />
      <Button tone="quiet" className="self-start" onClick={() => dispatch(keepOfTest(step.id))}>
        No test: keep “{step.name}” alone
      </Button>
    </>
  );
}
