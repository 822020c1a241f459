import { z } from 'zod';
import { unsubscribeWords } from '../../words/index.ts';
import { escapeHtml } from '../masks.ts';
import { blockBase, type BlockKind, colorOf, ground, leaf, node, padding, parts, textColours } from './kind.ts';

const schema = z.object({ ...blockBase, kind: z.literal('footer'), reason: z.string().max(300) });

export const footerBlock: BlockKind<'footer', typeof schema> = {
  ...leaf,
  kind: 'footer',
  name: 'Footer',
  about: 'Postal address and unsubscribe link',
  schema,
  looks: ['align', 'color', 'background', 'above', 'below'],
  locked: true,
  blank: (newId) => ({ id: newId(), kind: 'footer', reason: '' }),
  compile: (block, canvas) => {
    const { masks, style, dress, service } = canvas;
    const reason = block.reason ? `${masks.html(block.reason)}<br>` : '';
    const color = colorOf(block.look, style.soft, canvas);
    const unsubscribe = service ? null : masks.mask({ kind: 'unsubscribe' });
    const link = unsubscribe
      ? `<br><a href="${unsubscribe}" style="color:${color};text-decoration:underline">${unsubscribeWords[style.language]}</a>`
      : '';
    return {
      nodes: [
        node(
          'mj-text',
          {
            'font-family': style.font,
            'font-size': '13px',
            'line-height': '1.5',
            color,
            align: block.look?.align ?? (dress ? 'center' : 'left'),
            padding: padding(block.look, canvas, 20, 20),
            ...ground(block.look, canvas),
          },
          `${reason}${escapeHtml(style.postalAddress)}${link}`,
        ),
      ],
      plain: `--\n${block.reason ? `${masks.plain(block.reason)}\n` : ''}${style.postalAddress}${unsubscribe ? `\n${unsubscribeWords[style.language]}: ${unsubscribe}` : ''}`,
    };
  },
  parts: (block) => parts({ templates: [{ place: 'reason', source: block.reason }] }),
  title: () => 'Footer',
  colours: (block, ground, style) => ({
    ...textColours(block.look, ground, style, { color: style.soft }),
    large: false,
  }),
  sample: (newId) => ({ id: newId(), kind: 'footer', reason: 'You asked for our letters.' }),
  stands: [],
};
