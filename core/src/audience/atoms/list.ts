import { z } from 'zod';
import { plain, type AtomKind } from './kind.ts';

const schema = z.object({ kind: z.literal('list'), list: z.string(), on: z.boolean() });

/** On a list is who has confirmed it. */
export const listAtom: AtomKind<'list', typeof schema> = {
  ...plain,
  schema,
  holds: ({ list, on }, { facts }) => (facts.person.lists[list] === 'confirmed') === on,
  words: ({ list, on }, names) => `is ${on ? '' : 'not '}on “${names.list(list)}”`,
  isOpen: ({ list }) => list === '',
  asks: () => ({ lists: true }),
  speaksOf: ({ list }) => ({ lists: [list] }),
  turns: () => [],
  about: 'lists',
  sample: ({ lists }, pick) => ({ kind: 'list', list: pick(lists), on: pick([true, false]) }),
};
