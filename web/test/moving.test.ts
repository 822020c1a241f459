import fc from 'fast-check';
import { expect, test } from 'vitest';
import { applyCommands, armsOf, blankSequence, blankStep, walk, type Sequence, type Step } from '@ascenso/core';
import { liesInside, movesTo } from '../src/plan/moves.ts';

let ids = 0;
const newId = () => `s${++ids}`;
/** A plan of waits with a branch in the middle, whose first arm holds some of them. */
function planOf(outside: number, inside: number): { doc: Sequence; arm: string } {
  const waits = (n: number): Step[] => Array.from({ length: n }, () => blankStep('wait', newId));
  const branch = blankStep('branch', newId);
  const [first] = armsOf(branch);
  const arm = first?.id ?? '';
  if (first) first.steps.push(...waits(inside));
  return { doc: { ...blankSequence('Plan', null), steps: [...waits(outside), branch, ...waits(outside)] }, arm };
}
const listOf = (doc: Sequence, arm: string | null): string[] =>
  (arm === null
    ? doc.steps
    : (walk(doc)
        .flatMap((v) => armsOf(v.step))
        .find((a) => a.id === arm)?.steps ?? [])
  ).map((s) => s.id);

test('steps are brought to any place in the order of the plan, and what is not chosen stays in its order', () => {
  fc.assert(
    fc.property(
      fc.nat(4),
      fc.nat(4),
      fc.infiniteStream(fc.boolean()),
      fc.boolean(),
      fc.nat(12),
      (n, m, lots, into, at) => {
        const { doc, arm } = planOf(n + 1, m);
        const waits = walk(doc)
          .filter((v) => v.step.kind === 'wait')
          .map((v) => v.step.id);
        const chosen = waits.filter(() => lots.next().value);
        const target = into ? arm : null;
        const list = listOf(doc, target);
        const index = Math.min(at, list.length);
        const after = applyCommands(doc, movesTo(doc, new Set(chosen), { arm: target, index })).doc;
        // By hand: both lists without the chosen ones, and those put in where the place was.
        const left = (ids: readonly string[]) => ids.filter((id) => !chosen.includes(id));
        const other = into ? null : arm;
        expect(listOf(after, target)).toEqual([...left(list.slice(0, index)), ...chosen, ...left(list.slice(index))]);
        expect(listOf(after, other)).toEqual(left(listOf(doc, other)));
      },
    ),
    { numRuns: 500 },
  );
});

test('a branch has no place inside itself, however deep, and a step outside it has', () => {
  const { doc, arm } = planOf(1, 1);
  const [wait, branch] = doc.steps;
  const inner = blankStep('branch', newId);
  if (!wait || !branch) throw new Error('The plan is empty.');
  armsOf(branch)[0]?.steps.push(inner);
  const deep = armsOf(inner)[0]?.id ?? null;
  for (const at of [arm, deep]) {
    expect(liesInside(doc, new Set([branch.id]), { arm: at, index: 0 })).toBe(true);
    expect(liesInside(doc, new Set([wait.id]), { arm: at, index: 0 })).toBe(false);
  }
  expect(liesInside(doc, new Set([inner.id]), { arm, index: 0 })).toBe(false);
  expect(liesInside(doc, new Set([branch.id]), { arm: null, index: 0 })).toBe(false);
});
