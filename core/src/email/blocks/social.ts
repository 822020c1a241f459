import { z } from 'zod';
import { blockBase, type BlockKind, colorOf, leaf, node, parts, textAttributes, textColours } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('social') });

export const socialNames = {
  website: 'Website',
  instagram: 'Instagram',
  facebook: 'Facebook',
  youtube: 'YouTube',
  tiktok: 'TikTok',
  linkedin: 'LinkedIn',
  pinterest: 'Pinterest',
  mastodon: 'Mastodon',
} as const;

/** Links by name rather than by sign: no pictures to load, and nothing to explain to a screen reader. */
export const socialBlock: BlockKind<'social', typeof schema> = {
  ...leaf,
  kind: 'social',
  name: 'Social',
  about: 'Where else you can be found, from the house style',
  schema,
  looks: ['align', 'size', 'color', 'background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'social' }),
  compile: (block, canvas) => {
    const { masks, style } = canvas;
    const color = colorOf(block.look, style.link, canvas);
    const links = style.social.map(({ network, address }) => ({
      name: socialNames[network],
      href: masks.link(address, socialNames[network]),
    }));
    if (links.length === 0) return { nodes: [], plain: '' };
    const html = links
      .map(({ name, href }) => `<a href="${href}" style="color:${color};text-decoration:underline">${name}</a>`)
      .join(' &nbsp;·&nbsp; ');
    return {
      nodes: [
        node(
          'mj-text',
          {
            ...textAttributes(block.look, canvas),
            align: block.look?.align ?? 'center',
            'font-size': `${block.look?.size ?? 15}px`,
          },
          html,
        ),
      ],
      plain: links.map(({ name, href }) => `${name}: ${href}`).join('\n'),
    };
  },
  parts: () => parts(),
  title: () => 'Social links',
  colours: (block, ground, style) => ({
    ...textColours(block.look, ground, style, { color: style.link }),
    large: false,
  }),
  sample: (newId) => ({ id: newId(), kind: 'social' }),
};
