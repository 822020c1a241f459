import { minuteWords, momentWords, periodWords, placeWords, zoneOf } from '../time/index.ts';
import { instantOfWall } from './deadline.ts';
import { offerText } from './promise.ts';
import { isUnique, type Deadline, type Offer } from './schema.ts';

const label = (field: string) => field.replaceAll('_', ' ');
const at = (minute: number | null) => (minute === null ? '' : ` at ${minuteWords(minute)}`);

/** Words for what a sentence about a deadline refers to. */
export interface OfferNames {
  event: (name: string) => string;
  /** The email that gives it, or null where there are several or none. */
  email: string | null;
}

/** The deadline behind "closes": "48 hours after “Kit offer”", "on Tue 31 Mar, 18:00 in Lisbon". */
export function describeDeadline(deadline: Deadline, names: OfferNames): string {
  switch (deadline.kind) {
    case 'never':
      return 'never';
    case 'fixed':
      return `on ${momentWords(zoneOf(deadline.zone), instantOfWall(deadline.wall, zoneOf(deadline.zone)))} in ${placeWords(deadline.zone)}`;
    case 'after': {
      const { from, amount, unit, minute } = deadline;
      const start = {
        email: names.email ? `“${names.email}”` : 'the first email that gives it',
        entry: 'joining the sequence',
        event: `“${names.event(deadline.event)}”`,
      }[from];
      return `${periodWords(amount, unit)} after ${start}${unit === 'hours' ? '' : at(minute)}`;
    }
    case 'attribute': {
      const { days } = deadline;
      const when = days === 0 ? 'on' : `${periodWords(Math.abs(days), 'days')} ${days < 0 ? 'before' : 'after'}`;
      return `${when} the day of “${label(deadline.field)}”${at(deadline.minute)}`;
    }
  }
}

/** Where the codes come from: "one code for everyone", "a code of their own for each person". */
export const describeCodes = ({ codes }: Pick<Offer, 'codes'>): string =>
  codes.kind === 'none'
    ? 'no code'
    : codes.kind === 'shared'
      ? `one code for everyone, ${codes.code}`
      : 'a code of their own for each person';

/** What happens when no code is left, or '' where that cannot be. */
export function describeEmpty(offer: Pick<Offer, 'codes' | 'empty'>): string {
  if (!isUnique(offer)) return '';
  if (offer.empty.kind === 'hold') return 'when none is left, the email waits for new ones';
  return offer.empty.kind === 'shared'
    ? `when none is left, everybody gets ${offer.empty.code}`
    : 'when none is left, the email goes out without one';
}

/** The whole offer as a sentence: "10% off one order, with a code of their own for each person; closes 48 hours after “Kit offer”." */
export function describeOffer(offer: Offer, names: OfferNames): string {
  const closes = offer.deadline.kind === 'never' ? 'never closes' : `closes ${describeDeadline(offer.deadline, names)}`;
  return `${offerText(offer, 'en-GB')}, with ${describeCodes(offer)}; ${closes}.`;
}
