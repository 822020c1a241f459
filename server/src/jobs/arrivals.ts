import { sql } from 'drizzle-orm';
import { DAY, fromWall, momentFor, zoneOf, type Sequence, type Zone } from '@ascenso/core';
import { audiencePage } from '../db/audience.ts';
import type { Executor } from '../db/connect.ts';
import { andChosen } from './sampling.ts';

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

/** Somebody whom a moment is still to take in, at the hour of their zone. */
export interface Joiner {
  person: string;
  at: number;
  zone: string;
}

/** Those whom a moment of a sequence is still to take in: one in `sample` of them. Who pauses gets nothing, and is left out. */
export async function stillToBegin(
  db: Executor,
  ws: string,
  sequence: string,
  doc: Sequence,
  now: number,
  sample: number,
): Promise<Joiner[]> {
  const moments = doc.triggers.flatMap((t) => (t.kind === 'moment' && t.when === 'day' ? [t] : []));
  const out: Joiner[] = [];
  for (let after: string | null = null; moments.length > 0;) {
    const page = { zones: null, sequence, cause: null, after, limit: PAGE };
    const some = await audiencePage(db, ws, doc, now, page, andChosen(sql`p.id`, sample));
    for (const { id, zone, pausing } of some)
      for (const t of pausing && doc.list !== null ? [] : moments) {
        const at = momentFor(t, zoneOf(zone));
        if (at !== null && at > now) out.push({ person: id, at, zone });
      }
    if (some.length < PAGE) break;
    after = some.at(-1)?.id ?? null;
  }
  return out;
}

/** How many begin at each moment, in each zone; each of `joiners` stands for `sample` people. */
export function arrivalsOf(joiners: readonly Joiner[], sample: number): Arrival[] {
  const out = new Map<string, Arrival>();
  for (const { at, zone } of joiners) {
    const key = `${at} ${zone}`;
    const known = out.get(key) ?? { at, zone, people: 0 };
    known.people += sample;
    out.set(key, known);
  }
  return [...out.values()];
}
