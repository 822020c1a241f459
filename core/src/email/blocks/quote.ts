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

const schema = z.object({
  ...blockBase,
  kind: z.literal('quote'),
  doc: richTextSchema,
  /** Who says it. A template; '' for nobody named. */
  by: z.string().max(200),
});

export const quoteBlock: BlockKind<'quote', typeof schema> = {
  ...leaf,
  kind: 'quote',
  name: 'Quote',
  about: 'What somebody says, and who',
  schema,
  mayHide: { by: 'Who says it' },
  looks: ['size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'quote', doc: paragraphs(''), by: '' }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const first = masks.linksHere.length;
    const words = masks.richHtml(block.doc, linkStyle(canvas), canvas.style);
    const by = block.by
      ? `<p class="soft" style="margin:.6em 0 0;font-size:.85em;color:${style.soft}">${masks.html(block.by)}</p>`
      : '';
    const html = `<blockquote style="margin:0;padding-left:18px;border-left:3px solid ${style.accent};font-style:italic">${words}${by}</blockquote>`;
    const text = masks.richPlain(block.doc, first);
    return {
      nodes: [node('mj-text', textAttributes(block.look, canvas, [12, 12]), html)],
      plain: `${text.replace(/^/gm, '> ')}${block.by ? `\n> ${masks.plain(block.by)}` : ''}`,
    };
  },
  parts: (block) =>
    parts({ templates: [{ place: 'who says it', source: block.by }], rich: [{ place: 'text', doc: block.doc }] }),
  title: (block) => firstWords(partsOfRich(block.doc).text) || 'Quote',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  empty: (block) => (isBlank(block.doc) ? emptiness('A quote block', 'text') : null),
  sample: (newId) => ({ id: newId(), kind: 'quote', doc: paragraphs('It lies flat at last.'), by: 'Tomasz' }),
};
