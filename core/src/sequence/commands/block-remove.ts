import { slotOfBlock } from './block-place.ts';
import { blockKey, emailOf, keysOfBlock, mustFindBlock, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

export const blockRemove: CommandKind<'block.remove'> = {
  change: (doc, c) => {
    const { siblings, index, list, block } = mustFindBlock(emailOf(doc, c.step).blocks, c.block);
    siblings.splice(index, 1);
    return { type: 'block.insert', step: c.step, index, ...(list === null ? {} : { into: list }), block };
  },
  scope: (c, inverse) =>
    inverse.type === 'block.insert'
      ? {
          works: [stepKey(c.step)],
          removes: keysOfBlock(c.step, inverse.block),
          splices: [{ at: slotOfBlock(inverse), by: -1 }],
        }
      : { works: [stepKey(c.step)], removes: [blockKey(c.step, c.block)] },
};
