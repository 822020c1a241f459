import { blockList } from '../../email/index.ts';
import { insideBlock, slotOfBlock } from './block-place.ts';
import { blockKey, clamp, CommandError, emailOf, mustFindBlock, mustFindList } from './finding.ts';
import type { CommandKind } from './kind.ts';

export const blockMove: CommandKind<'block.move'> = {
  change: (doc, c) => {
    const { blocks } = emailOf(doc, c.step);
    const { siblings, index, list, block } = mustFindBlock(blocks, c.block);
    if (c.into && blockList([block], c.into)) throw new CommandError('into', 'A block cannot be moved into itself.');
    const target = mustFindList(blocks, c.into, block);
    siblings.splice(index, 1);
    target.splice(clamp(c.index, target.length), 0, block);
    return { type: 'block.move', step: c.step, block: c.block, index, ...(list === null ? {} : { into: list }) };
  },
  scope: (c, inverse) => ({
    writes: [[`place/${blockKey(c.step, c.block)}`, [c.into ?? null, c.index]]],
    works: insideBlock(c),
    splices: [
      ...(inverse.type === 'block.move' ? [{ at: slotOfBlock(inverse), by: -1 as const }] : []),
      { at: slotOfBlock(c), by: 1 },
    ],
  }),
  place: { of: slotOfBlock, put: (c, index) => ({ ...c, index }) },
};
