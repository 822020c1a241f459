import { addPeriod, periodWords, roughLength, type Unit, type Zone } from '../time/index.ts';
import type { WaitStep } from './schema.ts';

type Length = Pick<WaitStep, 'amount' | 'unit' | 'more'>;

const SIZES: readonly Unit[] = ['weeks', 'days', 'hours', 'minutes'];

/** The parts of the length of a wait, the largest unit first: a day keeps the time of day, and the hours come on top of it. */
const partsOf = ({ amount, unit, more }: Length) =>
  [{ amount, unit }, ...(more ? [more] : [])].sort((a, b) => SIZES.indexOf(a.unit) - SIZES.indexOf(b.unit));

/** When a wait that begins at an instant ends, epoch ms. */
export const waitEnd = (zone: Zone, from: number, length: Length): number =>
  partsOf(length).reduce((at, p) => addPeriod(zone, at, p.amount, p.unit), from);

/** About how long a wait is, ms. */
export const waitLength = (length: Length): number =>
  partsOf(length).reduce((sum, p) => sum + roughLength(p.amount, p.unit), 0);

/** "2 days and 1 hour". */
export const waitWords = (length: Length): string =>
  partsOf(length)
    .map((p) => periodWords(p.amount, p.unit))
    .join(' and ');

/** How many days lie between its two ends, in words; empty where it is not told in days: "24 hours" say what they are. */
export function daysBetween({ amount, unit, more, at }: Length & Pick<WaitStep, 'at'>): string {
  if (at || more || unit !== 'days' || amount < 1) return '';
  return amount === 1 ? 'the next day' : `${periodWords(amount - 1, 'days')} between`;
}
