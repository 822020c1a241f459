import type { Mailing } from '../audience/index.ts';
import { DAY, toWall, type Zone } from '../time/index.ts';
import type { CapRules } from './schema.ts';

/** A day of the person's calendar, days since 1970 in their zone: what the daily cap counts by. */
export const localDay = (zone: Zone, at: number): number => Math.floor(toWall(zone, at) / DAY);

/** Why an email gives way today. */
export type Yields = { why: 'cap' } | { why: 'priority'; sequence: string };

/**
 * Whether an email that is about to go at `now` (epoch ms) has to give way: the one place where the cap and the order of a day
 * are decided. The cap leaves so many places on a day of the person's calendar. What they were given holds one each; what
 * goes before this email by its priority holds one each as well, whether it has been due for a while or comes later that
 * day. Among equals the first one that is due has the place. Without a cap there is room for all, and nothing waits.
 */
export function yieldsTo(
  own: Pick<CapRules, 'exempt' | 'priority'>,
  { cap, given, others }: Mailing,
  zone: Zone,
  now: number,
): Yields | null {
  if (own.exempt || cap === null) return null;
  const today = localDay(zone, now);
  const places = cap - (given[today] ?? 0);
  if (places <= 0) return { why: 'cap' };
  const before = others
    .filter((o) => !o.exempt && o.priority < own.priority && localDay(zone, Math.max(o.at, now)) === today)
    .sort((a, b) => a.priority - b.priority || a.at - b.at);
  return before.length >= places && before[0] ? { why: 'priority', sequence: before[0].sequence } : null;
}
