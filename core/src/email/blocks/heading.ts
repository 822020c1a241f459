import { z } from 'zod';
import { node, noParts, type BlockKind } from './kind.ts';

const schema = z.object({
  id: z.string(),
  kind: z.literal('heading'),
  text: z.string().max(300),
  level: z.union([z.literal(1), z.literal(2)]),
});

export const headingBlock: BlockKind<'heading', typeof schema> = {
  kind: 'heading',
  name: 'Heading',
  schema,
  blank: (id) => ({ id, kind: 'heading', text: '', level: 2 }),
  compile: (block, masks, style) => ({
    nodes: [
      node(
        'mj-text',
        {
          'font-family': style.headingFont,
          color: style.accent,
          padding: '16px 32px 4px',
          align: block.level === 1 ? 'center' : 'left',
        },
        `<h${block.level} style="margin:0;font-size:${block.level === 1 ? 28 : 22}px;line-height:1.25;font-weight:700">${masks.html(block.text)}</h${block.level}>`,
      ),
    ],
    plain: masks
      .plain(block.text)
      .toUpperCase()
      .replace(/MZQ(\d+)QZM/g, 'mzq$1qzm'),
  }),
  parts: (block) => ({ ...noParts, templates: [{ place: 'heading', source: block.text }] }),
  title: (block) => block.text || 'Heading',
};
