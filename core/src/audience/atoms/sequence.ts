import { z } from 'zod';
import { HOUR } from '../../time/index.ts';
import { plain, type AtomKind } from './kind.ts';

/** How they stand to a sequence. "ended": they came to its end at least once, without its goal. */
const schema = z.object({
  kind: z.literal('sequence'),
  sequence: z.string(),
  state: z.enum(['inside', 'ended', 'goal']),
  is: z.boolean(),
});

const STATE = {
  inside: ['is inside', 'is not inside'],
  ended: ['came to the end of', 'did not come to the end of'],
  goal: ['reached the goal of', 'did not reach the goal of'],
} as const;

export const sequenceAtom: AtomKind<'sequence', typeof schema> = {
  ...plain,
  schema,
  holds: ({ sequence, state, is }, { facts }) => (facts.sequences?.[sequence]?.[state] ?? false) === is,
  words: ({ sequence, state, is }, names) => `${STATE[state][is ? 0 : 1]} “${names.sequence(sequence)}”`,
  isOpen: ({ sequence }, { sequences }) => !sequences.has(sequence),
  asks: ({ sequence }) => ({ sequences: [sequence] }),
  // What becomes of somebody elsewhere wakes nobody here: whoever waits for it is looked at every hour.
  turns: (_, { now }) => [now + HOUR],
  about: 'sequences',
  sample: ({ sequences }, pick) => ({
    kind: 'sequence',
    sequence: pick(sequences),
    state: pick(['inside', 'ended', 'goal']),
    is: pick([true, false]),
  }),
};
