import { z } from 'zod';
import { paragraphs, partsOfRich, richTextSchema } from '../rich.ts';
import { node, noParts, type BlockKind } from './kind.ts';

const schema = z.object({ id: z.string(), kind: z.literal('text'), doc: richTextSchema });

export const textBlock: BlockKind<'text', typeof schema> = {
  kind: 'text',
  name: 'Text',
  schema,
  blank: (id) => ({ id, kind: 'text', doc: paragraphs('') }),
  compile: (block, masks, style) => {
    const first = masks.links.length;
    const html = masks.richHtml(block.doc, `color:${style.accent};text-decoration:underline`);
    return {
      nodes: [
        node(
          'mj-text',
          {
            'font-family': style.font,
            'font-size': `${style.size}px`,
            'line-height': '1.55',
            color: style.text,
            padding: '8px 32px',
          },
          html,
        ),
      ],
      plain: masks.richPlain(block.doc, first),
    };
  },
  parts: (block) => ({ ...noParts, rich: [{ place: 'text', doc: block.doc }] }),
  title: (block) => partsOfRich(block.doc).text.slice(0, 40) || 'Text',
};
