import { keysOfStep, listOf, mustFind, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';
import { slotOfStep } from './step-place.ts';

export const stepRemove: CommandKind<'step.remove'> = {
  change: (doc, c) => {
    const { step, place } = mustFind(doc, c.step);
    listOf(doc, place.arm).splice(place.index, 1);
    return { type: 'step.insert', place, step };
  },
  scope: (c, inverse) =>
    inverse.type === 'step.insert'
      ? { removes: keysOfStep(inverse.step), splices: [{ at: slotOfStep(inverse.place), by: -1 }] }
      : { removes: [stepKey(c.step)] },
};
