import { armsOf, withInner } from '../tree.ts';
import { clamp, CommandError, listOf, mustFind, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';
import { insideArm, slotOfStep } from './step-place.ts';

export const stepMove: CommandKind<'step.move'> = {
  change: (doc, c) => {
    const { step, place } = mustFind(doc, c.step);
    if (c.place.arm !== null && withInner(step).some((s) => armsOf(s).some((a) => a.id === c.place.arm)))
      throw new CommandError('place', 'A branch cannot be moved into its own arm.');
    const target = listOf(doc, c.place.arm);
    listOf(doc, place.arm).splice(place.index, 1);
    target.splice(clamp(c.place.index, target.length), 0, step);
    return { type: 'step.move', step: step.id, place };
  },
  scope: (c, inverse) => ({
    writes: [[`place/${stepKey(c.step)}`, c.place]],
    works: insideArm(c.place.arm),
    splices: [
      ...(inverse.type === 'step.move' ? [{ at: slotOfStep(inverse.place), by: -1 as const }] : []),
      { at: slotOfStep(c.place), by: 1 },
    ],
  }),
  place: { of: (c) => slotOfStep(c.place), put: (c, index) => ({ ...c, place: { ...c.place, index } }) },
};
