import { z } from 'zod';
import { node, type BlockKind } from './kind.ts';

const schema = z.object({
  id: z.string(),
  kind: z.literal('image'),
  /** Id of a hosted file, or '' while none is chosen. */
  file: z.string(),
  alt: z.string().max(300),
  link: z.string().max(2000),
  /** Width in the layout, px. */
  width: z.int().min(40).max(600),
});

export const imageBlock: BlockKind<'image', typeof schema> = {
  kind: 'image',
  name: 'Image',
  schema,
  blank: (id) => ({ id, kind: 'image', file: '', alt: '', link: '', width: 536 }),
  compile: (block, masks, style) => {
    if (!block.file) return { nodes: [], plain: '' };
    const attributes: Record<string, string> = {
      src: `${masks.mask({ kind: 'base' })}/f/${block.file}`,
      alt: masks.html(block.alt),
      width: `${block.width}px`,
      padding: '10px 32px',
      'border-radius': '6px',
      'font-size': '14px',
      color: style.soft,
    };
    let plain = '';
    if (block.link) {
      attributes.href = masks.link(block.link, block.alt || 'Image');
      plain = `${masks.plain(block.alt)}: ${attributes.href}`;
    }
    return { nodes: [node('mj-image', attributes)], plain };
  },
  parts: (block) => ({
    templates: [{ place: 'alt text', source: block.alt }],
    rich: [],
    links: block.link ? [{ address: block.link, label: block.alt || 'Image' }] : [],
  }),
  title: (block) => block.alt || 'Image',
};
