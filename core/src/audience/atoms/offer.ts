import { z } from 'zod';
import { offerState } from '../../offer/index.ts';
import { periodWords } from '../../time/index.ts';
import type { Asking } from '../asking.ts';
import { periodFromNow, periodSchema, turnsOfPeriod } from '../since.ts';
import { plain, type AtomKind } from './kind.ts';
import { samplePeriod } from './sample.ts';

/** How an offer stands for them. "closing" is open, and closes within the period. */
const schema = z.object({
  kind: z.literal('offer'),
  offer: z.string(),
  state: z.enum(['open', 'closing', 'closed', 'used']),
  within: periodSchema,
  is: z.boolean(),
});

/** "Closing within" counts days and weeks by the calendar of the person. */
function isInState({ offer, state, within }: z.infer<typeof schema>, asking: Asking): boolean {
  const { given } = asking.facts.offers?.[offer] ?? { given: null };
  const now = offerState(given, asking.now);
  if (state !== 'closing') return now === state;
  return now === 'open' && given?.closesAt != null && given.closesAt <= periodFromNow(within, asking);
}

export const offerAtom: AtomKind<'offer', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking) => isInState(atom, asking) === atom.is,
  words: ({ offer, state, within, is }, names) => {
    const stands = {
      open: 'is open',
      closing: `closes within ${periodWords(within.amount, within.unit)}`,
      closed: 'has closed',
      used: 'was used',
    }[state];
    return `${is ? '' : 'not: '}“${names.offer(offer)}” ${stands} for them`;
  },
  isOpen: ({ offer }, { offers }) => !offers.has(offer),
  asks: ({ offer }) => ({ offers: [offer] }),
  turns: ({ offer, state, within }, asking) => {
    const closes = asking.facts.offers?.[offer]?.given?.closesAt;
    if (closes == null) return [];
    const back = { amount: -within.amount, unit: within.unit };
    return [closes, ...(state === 'closing' ? turnsOfPeriod(closes, back, asking) : [])];
  },
  about: 'offers',
  sample: ({ offers }, pick) => ({
    kind: 'offer',
    offer: pick(offers),
    state: pick(['open', 'closing', 'closed', 'used']),
    within: samplePeriod(pick),
    is: pick([true, false]),
  }),
};
