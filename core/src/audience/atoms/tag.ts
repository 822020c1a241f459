import { z } from 'zod';
import { plain, type AtomKind } from './kind.ts';

const schema = z.object({ kind: z.literal('tag'), tag: z.string(), has: z.boolean() });

export const tagAtom: AtomKind<'tag', typeof schema> = {
  ...plain,
  schema,
  holds: ({ tag, has }, { facts }) => facts.person.tags.includes(tag) === has,
  words: ({ tag, has }) => `${has ? 'has' : 'does not have'} the tag “${tag}”`,
  isOpen: ({ tag }) => tag === '',
  speaksOf: ({ tag }) => ({ tags: [tag] }),
  turns: () => [],
  about: 'tags',
  sample: ({ tags }, pick) => ({ kind: 'tag', tag: pick(tags), has: pick([true, false]) }),
};
