import { z } from 'zod';
import { hexOf } from '../look.ts';
import { blockBase, type BlockKind, emptiness, fileField, leaf, parts, tree } from './kind.ts';
import { columnsBlock } from './columns.ts';
import { leafSchemas } from './leaves.ts';
import { paragraphs } from '../rich.ts';
import { repeatBlock } from './repeat.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('section'),
  /** Hosted picture behind it, or ''. Where none is shown, the colour stands. */
  picture: fileField,
  blocks: z.array(z.discriminatedUnion('kind', [...leafSchemas, columnsBlock.schema, repeatBlock.schema])).max(60),
});

export const sectionBlock: BlockKind<'section', typeof schema> = {
  ...leaf,
  kind: 'section',
  name: 'Section',
  about: 'Several blocks on one ground, or for some readers',
  schema,
  looks: ['background', 'above', 'below'],
  blank: (newId) => ({ id: newId(), kind: 'section', picture: '', blocks: [] }),
  compile: (block, canvas) => {
    const { style, masks } = canvas;
    const { look } = block;
    const ground = look?.background ? hexOf(look.background, style) : style.sheet;
    const inner = canvas.stack(block.blocks, { ...canvas, style: { ...style, sheet: ground } });
    return {
      nodes: [],
      sections: [
        tree(
          'mj-wrapper',
          {
            'background-color': ground,
            padding: `${look?.above ?? 8}px 0 ${look?.below ?? 8}px`,
            'css-class': look?.background ? 'ground' : 'sheet',
            ...(block.picture
              ? {
                  'background-url': masks.picture(block.picture, ''),
                  'background-size': 'cover',
                  'background-repeat': 'no-repeat',
                }
              : {}),
          },
          inner.sections,
        ),
      ],
      plain: inner.plain,
    };
  },
  parts: () => parts(),
  title: (block) => `Section of ${block.blocks.length}`,
  inside: (block) => [{ id: block.id, blocks: block.blocks }],
  empty: (block) => (block.blocks.length === 0 ? emptiness('A section', null) : null),
  stands: [],
  sample: (newId) => ({
    id: newId(),
    kind: 'section',
    picture: '',
    look: { background: '#e3eee9', above: 20, below: 20 },
    when: { chain: 'if', condition: { kind: 'tag', tag: 'teacher', has: true } },
    blocks: [
      { id: newId(), kind: 'text', doc: paragraphs('For teachers') },
      { ...columnsBlock.sample(newId), phone: 'beside' },
    ],
  }),
  holds: 'section',
};
