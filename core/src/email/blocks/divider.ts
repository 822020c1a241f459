import { z } from 'zod';
import { node, noParts, type BlockKind } from './kind.ts';

const schema = z.object({ id: z.string(), kind: z.literal('divider') });

export const dividerBlock: BlockKind<'divider', typeof schema> = {
  kind: 'divider',
  name: 'Divider',
  schema,
  blank: (id) => ({ id, kind: 'divider' }),
  compile: (_block, _masks, style) => ({
    nodes: [node('mj-divider', { 'border-color': style.line, 'border-width': '1px', padding: '16px 32px' })],
    plain: '----',
  }),
  parts: () => noParts,
  title: () => 'Divider',
};
