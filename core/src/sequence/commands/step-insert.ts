import { withInner } from '../tree.ts';
import { clamp, CommandError, keysOfStep, listOf, structuredCloneJson } from './finding.ts';
import type { CommandKind } from './kind.ts';
import { insideArm, slotOfStep } from './step-place.ts';

export const stepInsert: CommandKind<'step.insert'> = {
  change: (doc, c) => {
    const known = new Set(doc.steps.flatMap(withInner).map((s) => s.id));
    if (withInner(c.step).some((s) => known.has(s.id)))
      throw new CommandError('step', 'That step is already in the sequence.');
    const list = listOf(doc, c.place.arm);
    list.splice(clamp(c.place.index, list.length), 0, structuredCloneJson(c.step));
    return { type: 'step.remove', step: c.step.id };
  },
  scope: ({ place, step }) => ({
    works: [...insideArm(place.arm), ...keysOfStep(step)],
    splices: [{ at: slotOfStep(place), by: 1 }],
  }),
  place: { of: (c) => slotOfStep(c.place), put: (c, index) => ({ ...c, place: { ...c.place, index } }) },
};
