import fc from 'fast-check';
import { zoneOf } from '../src/time/index.ts';

// Instants as the world has them, the awkward ones first: where a comparison is off by one, it is there.

export const ZONES = ['Europe/Lisbon', 'America/New_York', 'Australia/Lord_Howe', 'UTC', 'Pacific/Kiritimati'] as const;
const [MINUTE, HOUR, DAY] = [60_000, 3_600_000, 86_400_000];

/** Changes of the clocks of a zone (epoch ms) in [from, until]. */
export const changesOf = (zone: string, from: number, until: number): number[] =>
  zoneOf(zone).at.filter((t) => t >= from && t <= until);

/** Instants in [from, until]: changes of clocks, ends of months, hours and half hours, each with a millisecond either side; and any. */
export function instants(zone: string, from: number, until: number): fc.Arbitrary<number> {
  const months = Array.from({ length: Math.ceil((until - from) / (28 * DAY)) + 1 }, (_, i) => {
    const d = new Date(from);
    return Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + i, 1);
  });
  const marks = [...changesOf(zone, from, until), ...months].filter((t) => t > from && t < until);
  const any = fc.integer({ min: from, max: until });
  const edge = marks.length > 0 ? fc.constantFrom(...marks) : any;
  const round = any.map((t) => t - (t % (30 * MINUTE)));
  return fc
    .tuple(fc.oneof(edge, round, any), fc.constantFrom(0, 0, -1, 1, HOUR, -HOUR, DAY))
    .map(([t, by]) => Math.min(until, Math.max(from, t + by)));
}
