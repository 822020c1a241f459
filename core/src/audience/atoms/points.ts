import { z } from 'zod';
import { plain, type AtomKind } from './kind.ts';

const schema = z.object({ kind: z.literal('points'), op: z.enum(['over', 'under']), value: z.number() });

export const pointsAtom: AtomKind<'points', typeof schema> = {
  ...plain,
  schema,
  holds: ({ op, value }, { facts: { person } }) => (op === 'over' ? person.points > value : person.points < value),
  words: ({ op, value }) => `has ${op} ${value} points`,
  asks: () => ({ points: true }),
  turns: () => [],
  about: null,
  sample: (_, pick) => ({ kind: 'points', op: pick(['over', 'under']), value: pick([-5, 0, 10, 25.5, 1000]) }),
};
