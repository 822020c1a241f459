import { DAY, fromWall, momentFor, zoneOf, type Sequence, type Zone } from '@ascenso/core';
import { audiencePage, countWhom } from '../db/audience.ts';
import type { Executor } from '../db/connect.ts';

/** People read by one statement. */
const PAGE = 20_000;

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

/** Each of them, with the moment: for what has to know who they are. */
export async function* eachStillToBegin(
  db: Executor,
  ws: string,
  sequence: string,
  doc: Sequence,
  now: number,
): AsyncGenerator<{ person: string; at: number }> {
  const moments = doc.triggers.flatMap((t) => (t.kind === 'moment' && t.when === 'day' ? [t] : []));
  for (let after: string | null = null; moments.length > 0;) {
    const some = await audiencePage(db, ws, doc, now, { zones: null, sequence, cause: null, after, limit: PAGE });
    for (const { id, zone } of some)
      for (const t of moments) {
        const at = momentFor(t, zoneOf(zone));
        if (at !== null && at > now) yield { person: id, at };
      }
    if (some.length < PAGE) return;
    after = some.at(-1)?.id ?? null;
  }
}

/** Those whom a moment of a sequence is still to take in, at the hour of their zone. */
export async function stillToBeginAtMoments(
  db: Executor,
  ws: string,
  sequence: string,
  doc: Sequence,
  now: number,
): Promise<Arrival[]> {
  const moments = doc.triggers.flatMap((t) => (t.kind === 'moment' && t.when === 'day' ? [t] : []));
  if (moments.length === 0) return [];
  const { zones } = await countWhom(db, ws, sequence, doc, now);
  return moments.flatMap((t) =>
    zones.flatMap(({ zone, people }) => {
      const at = momentFor(t, zoneOf(zone));
      return at === null || at <= now ? [] : [{ at, zone, people }];
    }),
  );
}
