import { z } from 'zod';
import { plain, type AtomKind } from './kind.ts';

const schema = z.object({ kind: z.literal('segment'), segment: z.string(), in: z.boolean() });

/** A segment that is gone has nobody in it. */
export const segmentAtom: AtomKind<'segment', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking, answer) => {
    const rule = asking.facts.segments?.[atom.segment];
    return (rule !== undefined && answer(rule, asking)) === atom.in;
  },
  words: (atom, names) => `is ${atom.in ? '' : 'not '}in the segment “${names.segment(atom.segment)}”`,
  isOpen: ({ segment }, { segments }) => !segments.has(segment),
  // A segment's rule may ask for a list, whatever it says today.
  asks: ({ segment }) => ({ segments: [segment], lists: true }),
  turns: ({ segment }, { facts }, rule) => {
    const known = facts.segments?.[segment];
    return known === undefined ? [] : rule(known);
  },
  about: 'segments',
  sample: ({ segments }, pick) => ({ kind: 'segment', segment: pick(segments), in: pick([true, false]) }),
};
