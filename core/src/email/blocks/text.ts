import { z } from 'zod';
import { paragraphs, partsOfRich, richTextSchema } from '../rich.ts';
import { blockBase, firstWords, linkStyle, node, parts, textAttributes, type BlockKind } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('text'), doc: richTextSchema });

export const textBlock: BlockKind<'text', typeof schema> = {
  kind: 'text',
  name: 'Text',
  about: 'Paragraphs and lists',
  schema,
  looks: ['align', 'size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'text', doc: paragraphs('') }),
  compile: (block, canvas) => {
    const { masks } = canvas;
    const first = masks.linksHere.length;
    const html = masks.richHtml(block.doc, linkStyle(canvas));
    return {
      nodes: [node('mj-text', textAttributes(block.look, canvas), html)],
      plain: masks.richPlain(block.doc, first),
    };
  },
  parts: (block) => parts({ rich: [{ place: 'text', doc: block.doc }] }),
  title: (block) => firstWords(partsOfRich(block.doc).text) || 'Text',
};
