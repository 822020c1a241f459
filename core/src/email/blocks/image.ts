import { z } from 'zod';
import { addressField, blockBase, type BlockKind, fileField, ground, leaf, node, padding, parts } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('image'),
  /** Id of a hosted file, or '' while none is chosen. */
  file: fileField,
  /** Where the picture comes from instead: an address with merge fields. */
  address: addressField.optional(),
  alt: z.string().max(300),
  link: addressField,
  /** Width in the layout, px. */
  width: z.int('Whole px.').min(40, '40 px at least.').max(600, '600 px at most.'),
});

export const imageBlock: BlockKind<'image', typeof schema> = {
  ...leaf,
  kind: 'image',
  name: 'Image',
  about: 'A picture, perhaps with a link',
  schema,
  looks: ['align', 'radius', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'image', file: '', address: '', alt: '', link: '', width: 536 }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { look, address = '' } = block;
    if (!block.file && !address) return { nodes: [], plain: '' };
    const attributes: Record<string, string> = {
      src: masks.picture(block.file, address),
      alt: masks.html(block.alt),
      width: `${Math.min(block.width, canvas.width - 2 * canvas.side)}px`,
      padding: padding(look, canvas, 10, 10),
      align: look?.align ?? (canvas.dress ? 'center' : 'left'),
      'border-radius': `${look?.radius ?? style.radius}px`,
      'font-size': '14px',
      color: style.soft,
      ...ground(look, canvas),
    };
    let plain = '';
    if (block.link) {
      attributes.href = masks.link(block.link, block.alt || 'Image');
      plain = `${masks.plain(block.alt)}: ${attributes.href}`;
    }
    return { nodes: [node('mj-image', attributes)], plain };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'alt text', source: block.alt },
        ...(block.address ? [{ place: 'picture address', source: block.address }] : []),
      ],
      links: block.link ? [{ place: 'link', address: block.link, label: block.alt || 'Image' }] : [],
      pictures: [{ file: block.file, address: block.address ?? '', alt: block.alt, width: block.width }],
    }),
  title: (block) => block.alt || 'Image',
  sample: (newId) => ({
    id: newId(),
    kind: 'image',
    file: 'cover',
    alt: 'A folded sheet',
    link: 'https://foldwell.example/paper',
    width: 536,
  }),
};
