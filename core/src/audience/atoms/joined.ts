import { z } from 'zod';
import { periodWords } from '../../time/index.ts';
import type { Asking } from '../asking.ts';
import { joinedHow, type JoinedHow } from '../facts.ts';
import { periodFromNow, periodSchema, turnsOfPeriod } from '../since.ts';
import { plain, type AtomKind } from './kind.ts';
import { samplePeriod } from './sample.ts';

/** How, and how lately, they came onto a list that they are on. */
const schema = z.object({
  kind: z.literal('joined'),
  list: z.string(),
  /** By what; null for anything. */
  how: z.enum(joinedHow).nullable(),
  /** No longer ago than this; null for whenever. */
  within: periodSchema.nullable(),
  is: z.boolean(),
});
type JoinedAtom = z.infer<typeof schema>;

function fits({ list, how, within }: JoinedAtom, asking: Asking): boolean {
  const joined = asking.facts.person.joined?.[list];
  if (!joined || joined.at > asking.now || (how !== null && joined.how !== how)) return false;
  return within === null || joined.at >= periodFromNow({ ...within, amount: -within.amount }, asking);
}

/** By what somebody joined, as a part of a sentence. */
export const joinedWords: Readonly<Record<JoinedHow, string>> = {
  form: 'by a form',
  import: 'by a file',
  api: 'told by a program',
  hand: 'entered by the team',
  sequence: 'by a sequence',
  preferences: 'on the preferences page',
};

export const joinedAtom: AtomKind<'joined', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking) => fits(atom, asking) === atom.is,
  words: ({ list, how, within, is }, names) => {
    const parts = [how && joinedWords[how], within && `in the last ${periodWords(within.amount, within.unit)}`].filter(
      Boolean,
    );
    return `${is ? 'joined' : 'did not join'} “${names.list(list)}”${parts.length > 0 ? ` ${parts.join(' ')}` : ''}`;
  },
  isOpen: ({ list }) => list === '',
  asks: () => ({ lists: true, joined: true }),
  turns: ({ list, within }, asking) => {
    const at = asking.facts.person.joined?.[list]?.at;
    return within === null || at === undefined ? [] : turnsOfPeriod(at + 1, within, asking);
  },
  speaksOf: ({ list }) => ({ lists: [list] }),
  about: 'lists',
  sample: ({ lists }, pick) => ({
    kind: 'joined',
    list: pick(lists),
    how: pick([null, ...joinedHow]),
    within: pick([true, false]) ? samplePeriod(pick) : null,
    is: pick([true, false]),
  }),
};
