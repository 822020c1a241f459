import { z } from 'zod';
import { isBlank, paragraphs, partsOfRich, richTextSchema } from '../rich.ts';
import {
  blockBase,
  type BlockKind,
  emptiness,
  firstWords,
  leaf,
  linkStyle,
  node,
  parts,
  textAttributes,
  textColours,
} from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('text'), doc: richTextSchema });

export const textBlock: BlockKind<'text', typeof schema> = {
  ...leaf,
  kind: 'text',
  name: 'Text',
  about: 'Paragraphs and lists',
  schema,
  looks: ['align', 'size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'text', doc: paragraphs('') }),
  compile: (block, canvas) => {
    const { masks } = canvas;
    const first = masks.linksHere.length;
    const html = masks.richHtml(block.doc, linkStyle(canvas), canvas.style);
    return {
      nodes: [node('mj-text', textAttributes(block.look, canvas), html)],
      plain: masks.richPlain(block.doc, first),
    };
  },
  parts: (block) => parts({ rich: [{ place: 'text', doc: block.doc }] }),
  title: (block) => firstWords(partsOfRich(block.doc).text) || 'Text',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  empty: (block) => (isBlank(block.doc) ? emptiness('A text block', 'text') : null),
  sample: (newId) => ({
    id: newId(),
    kind: 'text',
    doc: paragraphs('Hello, here is one of each.'),
    look: { size: 18, align: 'center', background: 'page' },
  }),
};
