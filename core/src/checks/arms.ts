import { atomsOf, type Condition } from '../audience/index.ts';
import { inOrder } from '../email/index.ts';
import { walk } from '../sequence/index.ts';
import { at, type Check, type Finding } from './check.ts';

const same = (a: Condition, b: Condition) => JSON.stringify(inOrder(a)) === JSON.stringify(inOrder(b));

/** Whether a condition surely holds wherever another does, as far as their shape alone tells. */
function follows(wide: Condition, narrow: Condition): boolean {
  if (same(wide, narrow)) return true;
  if (wide.kind === 'any' && wide.of.some((c) => follows(c, narrow))) return true;
  if (narrow.kind === 'all' && narrow.of.some((c) => follows(wide, c))) return true;
  // With one thing more to be fulfilled, such as a total over 40, it is the same event still.
  return (
    wide.kind === 'event' &&
    narrow.kind === 'event' &&
    wide.done &&
    narrow.done &&
    wide.where.length === 0 &&
    wide.event === narrow.event &&
    same({ ...wide, where: [] }, { ...narrow, where: [] })
  );
}

/** Whether a condition is about nothing but what was done since joining: that is what a goal counts. */
const sinceEntry = (c: Condition): boolean => atomsOf(c).every((a) => a.kind === 'event' && a.since.kind === 'entry');

/** An arm that nobody takes: an earlier one asks for the same or for less, or whoever could take it has reached the goal. */
export const armNeverTaken: Check = {
  id: 'arm-never-taken',
  run: (sequence) =>
    walk(sequence).flatMap(({ step }) => {
      if (step.kind !== 'branch' || !step.on) return [];
      const { arms } = step;
      return arms.flatMap((arm, i): Finding[] => {
        const { condition } = arm;
        if (!condition) return [];
        const swallowed = arms.slice(0, i).some((a) => a.condition && follows(a.condition, condition));
        const forestalled = sequence.goal !== null && sinceEntry(sequence.goal) && follows(sequence.goal, condition);
        if (!swallowed && !forestalled) return [];
        return [
          {
            check: 'arm-never-taken',
            level: 'warning',
            place: at(step.id),
            message: swallowed
              ? `Nobody takes arm ${i + 1}: an earlier one asks for the same, or for less.`
              : `Nobody takes arm ${i + 1}: whoever could has reached the goal, and has left.`,
            fix: swallowed ? 'Move it up, or take it out.' : 'Take it out, or ask for something else than the goal.',
          },
        ];
      });
    }),
};
