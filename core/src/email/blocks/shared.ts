import { z } from 'zod';
import { blockBase, type BlockKind, leaf, parts } from './kind.ts';

const schema = z.object({
  ...blockBase,
  kind: z.literal('shared'),
  /** Id of a shared block of the library. */
  shared: z.string(),
});

export const sharedBlock: BlockKind<'shared', typeof schema> = {
  ...leaf,
  kind: 'shared',
  name: 'Shared',
  about: 'One block for many emails, changed in one place',
  schema,
  looks: [],
  blank: (newId) => ({ id: newId(), kind: 'shared', shared: '' }),
  compile: (block, canvas) => {
    // A shared block inside a shared block would lead round in a circle: there is one level of them.
    const inner = canvas.stack(canvas.shared[block.shared] ?? [], { ...canvas, shared: {} });
    return { nodes: [], sections: inner.sections, plain: inner.plain };
  },
  parts: () => parts(),
  title: () => 'Shared block',
  sample: (newId) => ({ id: newId(), kind: 'shared', shared: 'hours' }),
  stands: [],
};
