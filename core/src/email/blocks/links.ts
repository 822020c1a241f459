import { z } from 'zod';
import {
  addressField,
  blockBase,
  colorOf,
  emptiness,
  leaf,
  node,
  parts,
  textAttributes,
  textColours,
  type BlockKind,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('links'),
  items: z
    .array(z.object({ label: z.string().max(60), address: addressField }))
    .min(1, 'One link at least.')
    .max(8, '8 links at most: more do not fit beside each other.'),
});

/** Links beside each other, as above or below a letter: they break into lines between two of them, never inside one. */
export const linksBlock: BlockKind<'links', typeof schema> = {
  ...leaf,
  kind: 'links',
  name: 'Links',
  about: 'A few ways on, beside each other',
  schema,
  looks: ['align', 'size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'links', items: ['', ''].map((label) => ({ label, address: '' })) }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const color = colorOf(block.look, style.link, canvas);
    const links = block.items
      .filter((i) => i.label.trim() !== '')
      .map(({ label, address }) => ({
        label: masks.html(label),
        words: masks.plain(label),
        href: masks.link(address, label),
      }));
    if (links.length === 0) return { nodes: [], plain: '' };
    const html = links
      .map(
        ({ label, href }) =>
          `<a href="${href}" style="color:${color};text-decoration:underline;white-space:nowrap">${label}</a>`,
      )
      .join(' &nbsp;·&nbsp; ');
    return {
      nodes: [node('mj-text', { ...textAttributes(block.look, canvas), align: block.look?.align ?? 'center' }, html)],
      plain: links.map(({ words, href }) => `${words}: ${href}`).join('\n'),
    };
  },
  parts: (block) =>
    parts({
      templates: block.items.map((i, n) => ({ place: `link ${n + 1}`, source: i.label })),
      links: block.items.map((i, n) => ({ place: `address ${n + 1}`, address: i.address, label: i.label })),
    }),
  title: (block) =>
    block.items
      .map((i) => i.label)
      .filter(Boolean)
      .join(', ') || 'Row of links',
  colours: (block, ground, style) => textColours(block.look, ground, style, { color: style.link }),
  empty: (block) => (block.items.some((i) => i.label.trim()) ? null : emptiness('A row of links', 'link 1')),
  sample: (newId) => ({
    id: newId(),
    kind: 'links',
    items: [
      { label: 'Kits', address: 'https://foldwell.example/kits' },
      { label: 'Papers', address: 'https://foldwell.example/papers' },
      { label: 'Workshops', address: 'https://foldwell.example/workshops' },
    ],
  }),
};
