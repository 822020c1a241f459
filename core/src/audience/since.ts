import { z } from 'zod';
import { addPeriod, HOUR, MINUTE, periodWords, segmentAt, zoneOf } from '../time/index.ts';
import type { Asking } from './asking.ts';
import type { Names } from './names.ts';

/** A period as people count it: days and weeks by the calendar of the person. */
export const periodSchema = z.object({ amount: z.int().min(1).max(999), unit: z.enum(['hours', 'days', 'weeks']) });
export type Period = z.infer<typeof periodSchema>;

/** From when an event counts: the entry, the decided moment of a step, a period back from now, or ever. */
export const sinceSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('entry') }),
  z.object({ kind: z.literal('step'), step: z.string() }),
  z.object({ kind: z.literal('period'), ...periodSchema.shape }),
  z.object({ kind: z.literal('ever') }),
]);
export type Since = z.infer<typeof sinceSchema>;

/** The instant (epoch ms) that lies a period ahead of the moment of asking, or back where the amount is negative. */
export const periodFromNow = ({ amount, unit }: Period, { facts, now }: Asking): number =>
  addPeriod(zoneOf(facts.person.zone), now, amount, unit);

/** Instant (epoch ms) from which an event counts, or -Infinity for ever. A step not yet passed counts from entry. */
export function sinceInstant(since: Since, asking: Asking): number {
  switch (since.kind) {
    case 'ever':
      return -Infinity;
    case 'entry':
      return asking.enteredAt;
    case 'step':
      return asking.stepTimes[since.step] ?? asking.enteredAt;
    case 'period':
      return periodFromNow({ ...since, amount: -since.amount }, asking);
  }
}

/**
 * Instants (epoch ms) at one of which something that lies at `at` comes to lie so far from the moment of asking. Its end is
 * reckoned from the other side, and over a change of clocks the two ways lie up to an hour apart (half an hour on Lord
 * Howe); what would have ended within an hour that is left out ends with the change itself.
 */
export function turnsOfPeriod(at: number, { amount, unit }: Period, { facts }: Asking): number[] {
  const zone = zoneOf(facts.person.zone);
  const end = addPeriod(zone, at, amount, unit);
  const changes = zone.at.slice(segmentAt(zone, end - HOUR), segmentAt(zone, end + HOUR));
  return [...[-HOUR, -30 * MINUTE, 0, 30 * MINUTE, HOUR].map((by) => end + by), ...changes];
}

export function describeSince(since: Since, names: Names): string {
  switch (since.kind) {
    case 'ever':
      return 'ever';
    case 'entry':
      return 'since joining the sequence';
    case 'step':
      return `any time since “${names.step(since.step)}”`;
    case 'period':
      return `in the last ${periodWords(since.amount, since.unit)}`;
  }
}
