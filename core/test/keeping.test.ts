import { expect, test } from 'vitest';
import {
  applyCommands,
  blankEmail,
  blankSequence,
  blankStep,
  keepSteps,
  type Sequence,
} from '../src/sequence/index.ts';
import { id } from './support.ts';

const inner = { ...blankEmail(id), id: 'inner' };
const other = { ...blankEmail(id), id: 'other' };
const branch = blankStep('branch', id);
if (branch.kind === 'branch') {
  branch.id = 'branch';
  branch.arms[0]?.steps.push(inner, other);
}
const doc: Sequence = {
  ...blankSequence('Welcome', 'letters'),
  steps: [{ ...blankEmail(id), id: 'a' }, { ...blankStep('wait', id), id: 'w' }, branch],
};
const at = (d: Sequence, step: string) => {
  const all = d.steps.flatMap((s) => [s, ...('arms' in s ? s.arms.flatMap((a) => a.steps) : [])]);
  return all.find((s) => s.id === step);
};

test('after an edit the steps that it left alone are the same objects, moved or not, and the document says the same', () => {
  const { doc: next } = applyCommands(doc, [
    { type: 'step.move', step: 'w', place: { arm: null, index: 0 } },
    { type: 'step.set', step: 'inner', field: 'name', value: 'Changed' },
  ]);
  const kept = keepSteps(doc, next);
  expect(kept).toEqual(next);
  for (const same of ['a', 'w', 'other']) expect(at(kept, same)).toBe(at(doc, same));
  for (const changed of ['inner', 'branch']) expect(at(kept, changed)).not.toBe(at(doc, changed));
});
