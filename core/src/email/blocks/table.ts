import { z } from 'zod';
import { blockBase, type BlockKind, firstWords, leaf, node, parts, textAttributes, textColours } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('table'),
  /** The first row names the columns. */
  head: z.boolean(),
  /** Rows of templates, all of one length. */
  rows: z
    .array(z.array(z.string().max(300)).min(1).max(6, '6 columns at most: more do not fit on a phone.'))
    .min(1)
    .max(40, '40 rows at most.'),
});

export const tableBlock: BlockKind<'table', typeof schema> = {
  ...leaf,
  kind: 'table',
  name: 'Table',
  about: 'Figures in rows and columns',
  schema,
  looks: ['size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'table',
    head: true,
    rows: [
      ['', ''],
      ['', ''],
    ],
  }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const cell = (text: string, inHead: boolean) => {
      const tag = inHead ? 'th' : 'td';
      const weight = inHead
        ? `;font-weight:700;border-bottom:2px solid ${style.line}`
        : `;border-bottom:1px solid ${style.line}`;
      return `<${tag}${inHead ? ' scope="col"' : ''} style="padding:8px 10px 8px 0;text-align:left;vertical-align:top${weight}">${masks.html(text)}</${tag}>`;
    };
    const rows = block.rows.map((r, i) => `<tr>${r.map((c) => cell(c, block.head && i === 0)).join('')}</tr>`).join('');
    return {
      nodes: [
        node(
          'mj-text',
          textAttributes(block.look, canvas),
          `<table cellpadding="0" cellspacing="0" style="width:100%;border-collapse:collapse;font:inherit;color:inherit">${rows}</table>`,
        ),
      ],
      plain: block.rows.map((r) => r.map((c) => masks.plain(c)).join(' | ')).join('\n'),
    };
  },
  parts: (block) =>
    parts({
      templates: block.rows.flatMap((r, i) =>
        r.map((source, k) => ({ place: `row ${i + 1}, column ${k + 1}`, source })),
      ),
    }),
  title: (block) => firstWords(block.rows[0]?.filter(Boolean).join(', ') ?? '') || 'Table',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  sample: (newId) => ({
    id: newId(),
    kind: 'table',
    head: true,
    rows: [
      ['Paper', 'Weight'],
      ['Laid', '120 g'],
      ['Wove', '90 g'],
    ],
  }),
};
