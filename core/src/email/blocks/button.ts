import { z } from 'zod';
import { node, type BlockKind } from './kind.ts';

const schema = z.object({
  id: z.string(),
  kind: z.literal('button'),
  label: z.string().max(120),
  /** An address with merge fields, or `file:` and the id of a hosted file. */
  address: z.string().max(2000),
});

export const buttonBlock: BlockKind<'button', typeof schema> = {
  kind: 'button',
  name: 'Button',
  schema,
  blank: (id) => ({ id, kind: 'button', label: '', address: '' }),
  compile: (block, masks, style) => {
    const href = masks.link(block.address, block.label || 'Button');
    return {
      nodes: [
        node(
          'mj-button',
          {
            href,
            'background-color': style.accent,
            color: style.onAccent,
            'font-family': style.font,
            'font-size': `${style.size}px`,
            'font-weight': '600',
            'border-radius': '6px',
            'inner-padding': '14px 26px',
            padding: '14px 32px',
          },
          masks.html(block.label) || '&nbsp;',
        ),
      ],
      plain: `${masks.plain(block.label)}:\n${href}`,
    };
  },
  parts: (block) => ({
    templates: [{ place: 'label', source: block.label }],
    rich: [],
    links: [{ address: block.address, label: block.label || 'Button' }],
  }),
  title: (block) => block.label || 'Button',
};
