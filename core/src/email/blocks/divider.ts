import { z } from 'zod';
import { blockBase, type BlockKind, colorOf, ground, leaf, node, padding, parts } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('divider') });

export const dividerBlock: BlockKind<'divider', typeof schema> = {
  ...leaf,
  kind: 'divider',
  name: 'Divider',
  about: 'A thin line',
  schema,
  looks: ['color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'divider' }),
  compile: (block, canvas) => ({
    nodes: [
      node('mj-divider', {
        'border-color': colorOf(block.look, canvas.style.line, canvas),
        'border-width': '1px',
        padding: padding(block.look, canvas, 16, 16),
        ...ground(block.look, canvas),
      }),
    ],
    plain: '----',
  }),
  parts: () => parts(),
  title: () => 'Divider',
  sample: (newId) => ({ id: newId(), kind: 'divider' }),
};
