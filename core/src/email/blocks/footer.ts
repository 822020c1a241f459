import { z } from 'zod';
import { escapeHtml } from '../masks.ts';
import { node, noParts, type BlockKind } from './kind.ts';

const schema = z.object({ id: z.string(), kind: z.literal('footer'), reason: z.string().max(300) });

export const footerBlock: BlockKind<'footer', typeof schema> = {
  kind: 'footer',
  name: 'Footer',
  schema,
  locked: true,
  blank: (id) => ({ id, kind: 'footer', reason: '' }),
  compile: (block, masks, style) => {
    const unsubscribe = masks.mask({ kind: 'unsubscribe' });
    const reason = block.reason ? `${masks.html(block.reason)}<br>` : '';
    return {
      nodes: [
        node(
          'mj-text',
          {
            'font-family': style.font,
            'font-size': '13px',
            'line-height': '1.5',
            color: style.soft,
            align: 'center',
            padding: '20px 32px',
          },
          `${reason}${escapeHtml(style.postalAddress)}<br><a href="${unsubscribe}" style="color:${style.soft};text-decoration:underline">Unsubscribe</a>`,
        ),
      ],
      plain: `--\n${block.reason ? `${masks.plain(block.reason)}\n` : ''}${style.postalAddress}\nUnsubscribe: ${unsubscribe}`,
    };
  },
  parts: (block) => ({ ...noParts, templates: [{ place: 'reason', source: block.reason }] }),
  title: () => 'Footer',
};
