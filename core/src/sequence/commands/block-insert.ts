import { walkBlocks } from '../../email/index.ts';
import { insideBlock, slotOfBlock } from './block-place.ts';
import { clamp, CommandError, emailOf, keysOfBlock, mustFindList, structuredCloneJson } from './finding.ts';
import type { CommandKind } from './kind.ts';

export const blockInsert: CommandKind<'block.insert'> = {
  change: (doc, c) => {
    const { blocks } = emailOf(doc, c.step);
    const known = new Set(walkBlocks(blocks).map((p) => p.block.id));
    if (walkBlocks([c.block]).some((p) => known.has(p.block.id)))
      throw new CommandError('block', 'That block is already in the email.');
    const list = mustFindList(blocks, c.into, c.block);
    list.splice(clamp(c.index, list.length), 0, structuredCloneJson(c.block));
    return { type: 'block.remove', step: c.step, block: c.block.id };
  },
  scope: (c) => ({
    works: [...insideBlock(c), ...keysOfBlock(c.step, c.block)],
    splices: [{ at: slotOfBlock(c), by: 1 }],
  }),
  place: { of: slotOfBlock, put: (c, index) => ({ ...c, index }) },
};
