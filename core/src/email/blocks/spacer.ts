import { z } from 'zod';
import { blockBase, type BlockKind, ground, leaf, node, parts } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('spacer'),
  /** px */
  height: z.int('Whole px.').min(4, '4 px at least.').max(200, '200 px at most.'),
});

export const spacerBlock: BlockKind<'spacer', typeof schema> = {
  ...leaf,
  kind: 'spacer',
  name: 'Spacer',
  about: 'Room between two blocks',
  schema,
  looks: ['background'],
  blank: (newId) => ({ id: newId(), kind: 'spacer', height: 24 }),
  compile: (block, canvas) => ({
    nodes: [node('mj-spacer', { height: `${block.height}px`, ...ground(block.look, canvas) })],
    plain: '',
  }),
  parts: () => parts(),
  title: (block) => `Spacer, ${block.height} px`,
  sample: (newId) => ({ id: newId(), kind: 'spacer', height: 24 }),
};
