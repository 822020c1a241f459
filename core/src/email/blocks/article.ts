import { z } from 'zod';
import {
  addressField,
  blockBase,
  type BlockKind,
  fileField,
  leaf,
  linkStyle,
  node,
  parts,
  textAttributes,
  textColours,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('article'),
  /** Hosted picture, or '' for none. */
  file: fileField,
  alt: z.string().max(300),
  title: z.string().max(300),
  summary: z.string().max(1000),
  address: addressField,
  label: z.string().max(120),
  side: z.enum(['above', 'left', 'right']),
});

export const articleBlock: BlockKind<'article', typeof schema> = {
  ...leaf,
  kind: 'article',
  name: 'Article',
  about: 'Picture, title, a few words and a link',
  schema,
  mayHide: { file: 'Picture', title: 'Title', summary: 'Words', label: 'Link' },
  looks: ['size', 'color', 'background', 'radius', 'above', 'below'],
  blank: (newId) => ({
    id: newId(),
    kind: 'article',
    file: '',
    alt: '',
    title: '',
    summary: '',
    address: '',
    label: 'Read on',
    side: 'left',
  }),
  compile: (block, canvas) => {
    const { masks, style, width, side } = canvas;
    if (!block.file && !block.title && !block.summary) return { nodes: [], plain: '' };
    const href = block.address ? masks.link(block.address, block.title || 'Article') : '';
    const linked = (inside: string, css: string) => (href ? `<a href="${href}" style="${css}">${inside}</a>` : inside);
    const inRow = block.side !== 'above';
    const room = width - 2 * side;
    const pictured = inRow ? Math.round(room * 0.34) : room;
    const picture = block.file
      ? linked(
          `<img src="${masks.picture(block.file, '')}" alt="${masks.html(block.alt)}" width="${pictured}" style="display:block;width:100%;max-width:${pictured}px;height:auto;border:0;border-radius:${block.look?.radius ?? style.radius}px">`,
          'text-decoration:none',
        )
      : '';
    const words = [
      block.title &&
        `<h2 style="margin:0 0 .3em;font-family:${style.headingFont.replaceAll('"', "'")};font-size:1.1em;line-height:1.3">${linked(masks.html(block.title), 'color:inherit;text-decoration:none')}</h2>`,
      block.summary && `<p style="margin:0 0 .4em">${masks.html(block.summary)}</p>`,
      href && block.label && `<p style="margin:0">${linked(masks.html(block.label), linkStyle(canvas))}</p>`,
    ]
      .filter(Boolean)
      .join('');
    const cells = [
      `<td style="width:34%;vertical-align:top;padding:0">${picture}</td>`,
      `<td style="vertical-align:top;padding:${block.side === 'left' ? '0 0 0 18px' : '0 18px 0 0'}">${words}</td>`,
    ];
    if (block.side === 'right') cells.reverse();
    const html =
      inRow && picture
        ? `<table role="presentation" cellpadding="0" cellspacing="0" style="width:100%;border-collapse:collapse;font:inherit;color:inherit"><tr>${cells.join('')}</tr></table>`
        : `${picture ? `<div style="margin:0 0 12px">${picture}</div>` : ''}${words}`;
    const plain = [
      masks.plain(block.title),
      masks.plain(block.summary),
      href && `${masks.plain(block.label)}: ${href}`,
    ];
    return {
      nodes: [node('mj-text', textAttributes(block.look, canvas, [12, 12]), html)],
      plain: plain.filter(Boolean).join('\n'),
    };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'title', source: block.title },
        { place: 'summary', source: block.summary },
        { place: 'label', source: block.label },
        { place: 'alt text', source: block.alt },
      ],
      links: [{ place: 'address', address: block.address, label: block.title || 'Article' }],
      pictures: block.file ? [{ file: block.file, address: '', alt: block.alt, width: 180 }] : [],
    }),
  title: (block) => block.title || 'Article card',
  colours: (block, ground, style) => textColours(block.look, ground, style),
  sample: (newId) => ({
    id: newId(),
    kind: 'article',
    file: 'cover',
    alt: 'Thread',
    title: 'Which thread?',
    summary: 'Linen, mostly.',
    address: 'https://foldwell.example/thread',
    label: 'Read on',
    side: 'right',
  }),
};
