import { blockSchema, optionalFields } from '../../email/index.ts';
import { blockKey, emailOf, mustFindBlock, setField, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** One property of a block. A text is one unit. */
export const blockSet: CommandKind<'block.set'> = {
  change: (doc, c) => {
    const { block } = mustFindBlock(emailOf(doc, c.step).blocks, c.block);
    return { ...c, value: setField(block, c.field, c.value, blockSchema, optionalFields) ?? null };
  },
  scope: (c) => ({
    writes: [[`${blockKey(c.step, c.block)}/${c.field}`, c.value]],
    works: [stepKey(c.step), blockKey(c.step, c.block)],
  }),
};
