import { z } from 'zod';
import {
  blockBase,
  type BlockKind,
  emptiness,
  firstWords,
  leaf,
  node,
  parts,
  textAttributes,
  textColours,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('list'),
  marker: z.enum(['tick', 'dash', 'number']),
  /** Templates. */
  items: z.array(z.string().max(500)).min(1, 'A list has one item at least.').max(30, '30 items at most.'),
});

const MARKERS = { tick: '✓', dash: '–' } as const;

export const listBlock: BlockKind<'list', typeof schema> = {
  ...leaf,
  kind: 'list',
  name: 'List',
  about: 'Points with ticks, dashes or numbers',
  schema,
  looks: ['size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'list', marker: 'tick', items: [''] }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const sign = (i: number) => (block.marker === 'number' ? `${i + 1}.` : MARKERS[block.marker]);
    const row = (item: string, i: number) =>
      `<tr><td aria-hidden="true" style="padding:3px 10px 3px 0;color:${style.accent};font-weight:700;vertical-align:top">${sign(i)}</td><td style="padding:3px 0">${masks.html(item)}</td></tr>`;
    return {
      nodes: [
        node(
          'mj-text',
          textAttributes(block.look, canvas),
          `<table role="presentation" cellpadding="0" cellspacing="0" style="border-collapse:collapse;font:inherit;color:inherit">${block.items.map(row).join('')}</table>`,
        ),
      ],
      plain: block.items
        .map((item, i) => `${block.marker === 'number' ? `${i + 1}.` : '-'} ${masks.plain(item)}`)
        .join('\n'),
    };
  },
  parts: (block) => parts({ templates: block.items.map((source, i) => ({ place: `item ${i + 1}`, source })) }),
  title: (block) => firstWords(block.items[0] ?? '') || 'List',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  empty: (block) => (block.items.some((i) => i.trim()) ? null : emptiness('A list', 'item 1')),
  sample: (newId) => ({ id: newId(), kind: 'list', marker: 'tick', items: ['Fold', 'Press', 'Sew'] }),
};
