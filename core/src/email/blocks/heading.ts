import { z } from 'zod';
import { MASK } from '../masks.ts';
import {
  blockBase,
  type BlockKind,
  colorOf,
  emptiness,
  ground,
  leaf,
  node,
  padding,
  parts,
  textColours,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('heading'),
  text: z.string().max(300),
  level: z.union([z.literal(1), z.literal(2)]),
});

/** In capitals, but for the masks in between. */
const capitals = (text: string) =>
  text
    .split(new RegExp(`(${MASK.source.replace('(', '(?:')})`))
    .map((part, i) => (i % 2 === 0 ? part.toUpperCase() : part))
    .join('');

export const headingBlock: BlockKind<'heading', typeof schema> = {
  ...leaf,
  kind: 'heading',
  name: 'Heading',
  about: 'A title, or the head of a part',
  schema,
  looks: ['align', 'size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'heading', text: '', level: 2 }),
  compile: (block, canvas) => {
    const { style, masks, dress } = canvas;
    const { look, level } = block;
    const size = look?.size ?? (level === 1 ? style.titleSize : style.headingSize);
    return {
      nodes: [
        node(
          'mj-text',
          {
            'font-family': style.headingFont,
            color: colorOf(look, dress ? style.accent : style.text, canvas),
            padding: padding(look, canvas, 16, 4),
            align: look?.align ?? (level === 1 && dress ? 'center' : 'left'),
            ...ground(look, canvas),
          },
          `<h${level} style="margin:0;font-size:${size}px;line-height:1.25;font-weight:700">${masks.html(block.text)}</h${level}>`,
        ),
      ],
      plain: capitals(masks.plain(block.text)),
    };
  },
  parts: (block) => parts({ templates: [{ place: 'heading', source: block.text }] }),
  title: (block) => block.text || 'Heading',
  colours: (block, ground, style) =>
    textColours(block.look, ground, style, {
      color: style.accent,
      size: block.level === 1 ? style.titleSize : style.headingSize,
      bold: true,
    }),
  empty: (block) => (block.text.trim() ? null : emptiness('A heading', 'heading')),
  sample: (newId) => ({ id: newId(), kind: 'heading', text: 'Foldwell Bindery', level: 1 }),
};
