import { z } from 'zod';
import { addressField, blockBase, type BlockKind, fileField, ground, leaf, node, padding, parts, raw } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('image'),
  /** Id of a hosted file, or '' while none is chosen. */
  file: fileField,
  /** Where the picture comes from instead: an address with merge fields. */
  address: addressField.optional(),
  /** The photo of whoever the email is from, instead: each colleague's copy shows their own. */
  sender: z.literal(true).optional(),
  alt: z.string().max(300),
  link: addressField,
  /** Width in the layout, px. */
  width: z.int('Whole px.').min(40, '40 px at least.').max(600, '600 px at most.'),
});

/** What stands for the picture in words: of a photo of the sender, their name where nothing else is written. */
const altOf = ({ alt, sender }: z.infer<typeof schema>): string => (sender && !alt ? '{{ sender.name }}' : alt);

export const imageBlock: BlockKind<'image', typeof schema> = {
  ...leaf,
  kind: 'image',
  name: 'Image',
  about: 'A picture, perhaps with a link',
  schema,
  mayHide: { link: 'Link' },
  looks: ['align', 'radius', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'image', file: '', address: '', alt: '', link: '', width: 536 }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { look, address = '', sender } = block;
    if (!block.file && !address && !sender) return { nodes: [], plain: '' };
    const given = sender ? masks.givenAround('sender.photo') : null;
    const attributes: Record<string, string> = {
      src: sender
        ? `${masks.mask({ kind: 'base' })}/f/${masks.html('{{ sender.photo }}')}`
        : masks.picture(block.file, address),
      alt: masks.html(altOf(block)),
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
    const image = node('mj-image', attributes);
    if (!given) return { nodes: [image], plain };
    return { nodes: [raw(given.start), image, raw(given.end)], plain: plain && `${given.start}${plain}${given.end}` };
  },
  parts: (block) =>
    parts({
      templates: [
        { place: 'alt text', source: block.alt },
        ...(block.address && !block.sender ? [{ place: 'picture address', source: block.address }] : []),
      ],
      links: block.link ? [{ place: 'link', address: block.link, label: block.alt || 'Image' }] : [],
      pictures: [
        block.sender
          ? { file: '', address: '{{ sender.photo }}', alt: altOf(block), width: block.width }
          : { file: block.file, address: block.address ?? '', alt: block.alt, width: block.width },
      ],
      profile: block.sender ? [{ place: 'picture', name: 'photo' }] : [],
    }),
  title: (block) => block.alt || (block.sender ? 'Photo of the sender' : 'Image'),
  sample: (newId) => ({
    id: newId(),
    kind: 'image',
    file: 'cover',
    alt: 'A folded sheet',
    link: 'https://foldwell.example/paper',
    width: 536,
  }),
};
