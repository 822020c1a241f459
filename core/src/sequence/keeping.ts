import { same } from './difference.ts';
import type { Sequence, Step } from './schema.ts';
import { armsOf, walk } from './tree.ts';

/**
 * A document with the very steps of an older one wherever they are the same: whoever draws them need look no further than
 * whether it is the same object. Neither document is changed.
 */
export function keepSteps(old: Sequence, next: Sequence): Sequence {
  const known = new Map(walk(old).map(({ step }) => [step.id, step]));
  const kept = (step: Step): Step => {
    const before = known.get(step.id);
    if (before && same(before, step)) return before;
    const arms = armsOf(step).map((arm) => ({ ...arm, steps: arm.steps.map(kept) }));
    return arms.length > 0 ? ({ ...step, arms } as Step) : step;
  };
  return { ...next, steps: next.steps.map(kept) };
}
