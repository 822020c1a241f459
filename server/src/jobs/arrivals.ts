import { DAY, fromWall, momentFor, zoneOf, type Sequence, type Zone } from '@ascenso/core';
import { countWhom } from '../db/audience.ts';
import type { Executor } from '../db/connect.ts';

/** So many people (no whole number where they are expected) who begin a sequence at a moment, in a zone. */
export interface Arrival {
  at: number;
  zone: string;
  people: number;
}

/** As many joiners a day as of late, each at noon of the workspace's day. `first` is a day since 1970. */
export const expectedJoiners = (perDay: number, zone: Zone, first: number, days: number): Arrival[] =>
  perDay === 0
    ? []
    : Array.from({ length: days }, (_, day) => ({
        at: fromWall(zone, (first + day) * DAY + DAY / 2),
        zone: zone.name,
        people: perDay,
      }));

/** Those whom a moment of a sequence is still to take in, at the hour of their zone. */
export async function stillToBeginAtMoments(db: Executor, ws: string, doc: Sequence, now: number): Promise<Arrival[]> {
  const moments = doc.triggers.flatMap((t) => (t.kind === 'moment' && t.when === 'day' ? [t] : []));
  if (moments.length === 0) return [];
  const { zones } = await countWhom(db, ws, doc, now);
  return moments.flatMap((t) =>
    zones.flatMap(({ zone, people }) => {
      const at = momentFor(t, zoneOf(zone));
      return at === null || at <= now ? [] : [{ at, zone, people }];
    }),
  );
}
