import { z } from 'zod';
import { hexOf } from '../look.ts';
import { blockBase, fileField, parts, tree, type BlockKind } from './kind.ts';
import { columnsBlock } from './columns.ts';
import { leafSchemas } from './leaves.ts';
import { repeatBlock } from './repeat.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('section'),
  /** Hosted picture behind it, or ''. Where none is shown, the colour stands. */
  picture: fileField,
  blocks: z.array(z.discriminatedUnion('kind', [...leafSchemas, columnsBlock.schema, repeatBlock.schema])).max(60),
});

export const sectionBlock: BlockKind<'section', typeof schema> = {
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
};
