import { z } from 'zod';
import {
  addressField,
  blockBase,
  type BlockKind,
  fileField,
  ground,
  leaf,
  linkStyle,
  node,
  padding,
  parts,
  textAttributes,
} from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('video'),
  /** Hosted still picture. */
  file: fileField,
  alt: z.string().max(300),
  /** Where the film is. Mail programs play none, so a click opens it. */
  address: addressField,
  label: z.string().max(120),
});

export const videoBlock: BlockKind<'video', typeof schema> = {
  ...leaf,
  kind: 'video',
  name: 'Video',
  about: 'A picture that opens a film',
  schema,
  mayHide: { label: 'Words below it' },
  looks: ['align', 'radius', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'video', file: '', alt: '', address: '', label: '▶ Watch the film' }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    if (!block.file) return { nodes: [], plain: '' };
    const href = masks.link(block.address, block.label || 'Film');
    const { look } = block;
    const align = look?.align ?? 'center';
    return {
      nodes: [
        node('mj-image', {
          src: masks.picture(block.file, ''),
          alt: masks.html(block.alt),
          href,
          align,
          padding: padding({ ...look, below: 0 }, canvas, 10, 0),
          'border-radius': `${look?.radius ?? style.radius}px`,
          ...ground(look, canvas),
        }),
        node(
          'mj-text',
          { ...textAttributes(look, canvas, [6, 10]), align },
          `<p style="margin:0"><a href="${href}" style="${linkStyle(canvas)};font-weight:600">${masks.html(block.label) || 'Watch'}</a></p>`,
        ),
      ],
      plain: `${masks.plain(block.label)}: ${href}`,
    };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'label', source: block.label },
        { place: 'alt text', source: block.alt },
      ],
      links: [{ place: 'address', address: block.address, label: block.label || 'Film' }],
      pictures: [{ file: block.file, address: '', alt: block.alt, width: 536 }],
    }),
  title: (block) => block.alt || 'Video still',
  sample: (newId) => ({
    id: newId(),
    kind: 'video',
    file: 'cover',
    alt: 'A film on folding',
    address: 'https://foldwell.example/film',
    label: 'Watch',
  }),
};
