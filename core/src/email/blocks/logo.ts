import { z } from 'zod';
import { blockBase, type BlockKind, colorOf, ground, leaf, node, padding, parts, textAttributes } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('logo') });

/** The sender's mark from the house style, or the brand in words while there is none. */
export const logoBlock: BlockKind<'logo', typeof schema> = {
  ...leaf,
  kind: 'logo',
  name: 'Logo',
  about: 'Your mark, from the house style',
  schema,
  looks: ['align', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'logo' }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const { look } = block;
    const { file, width, address } = style.logo;
    const brand = masks.html(style.brand);
    if (!file && !brand) return { nodes: [], plain: '' };
    const href = address ? masks.link(address, style.brand || 'Logo') : '';
    const align = look?.align ?? (canvas.dress ? 'center' : 'left');
    const words = masks.plain(style.brand);
    const plain = href ? `${words}: ${href}` : words;
    if (file) {
      const attributes: Record<string, string> = {
        'css-class': 'plate',
        src: masks.picture(file, ''),
        alt: brand,
        width: `${Math.min(width, canvas.width - 2 * canvas.side)}px`,
        align,
        padding: padding(look, canvas, 20, 12),
        'font-family': style.headingFont,
        'font-size': '20px',
        color: style.accent,
        ...ground(look, canvas),
      };
      if (href) attributes.href = href;
      return { nodes: [node('mj-image', attributes)], plain };
    }
    const color = colorOf(look, style.accent, canvas);
    const html = href ? `<a href="${href}" style="color:${color};text-decoration:none">${brand}</a>` : brand;
    return {
      nodes: [
        node(
          'mj-text',
          {
            ...textAttributes(look, canvas, [20, 12]),
            align,
            'font-family': style.headingFont,
            'font-size': '20px',
            color,
          },
          `<p style="margin:0;font-weight:700">${html}</p>`,
        ),
      ],
      plain,
    };
  },
  parts: () => parts(),
  title: () => 'Logo',
  sample: (newId) => ({ id: newId(), kind: 'logo' }),
};
