import { sql } from 'drizzle-orm';
import type { ForecastAnswer } from '@ascenso/contracts';
import {
  addDays,
  armsOf,
  DAY,
  dayNumber,
  fromWall,
  isOneOff,
  type Runnable,
  type Step,
  type Zone,
  zoneOf,
} from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { arrivalsOf, expectedJoiners, stillToBegin, type Arrival } from './arrivals.ts';
import { Collisions } from './collisions.ts';
import { insideUntil } from './led-on.ts';
import { armCounts, sharesOf } from './likely.ts';
import { chosen, lotsOf } from './sampling.ts';
import { shareOfWay, waysThrough } from './ways.ts';
import { firstRow, rows } from '../db/rows.ts';
import { readTallies, sumOf, tallied } from '../db/tallies.ts';
import { loadVersion } from '../db/versions.ts';

/** Days that are looked ahead, and looked back for how many people join. */
export const FORECAST_DAYS = 28;

interface LiveRow {
  id: string;
  name: string;
  live_version: number;
}

/** How many people an offer is given to by day, by its id. */
type GivenByDay = Map<string, number[]>;

const noDays = () => Array.from({ length: FORECAST_DAYS }, () => 0);

function daysOf(given: GivenByDay, offer: string): number[] {
  const known = given.get(offer) ?? noDays();
  given.set(offer, known);
  return known;
}

interface Days {
  first: number;
  zone: Zone;
}

/**
 * Emails sent since the workspace's midnight, and those still to come before the next one: in the queue, or due to whoever
 * stands at one or at a wait that ends today, by the same walk that the forecast takes.
 */
export async function goingOutToday(
  db: Executor,
  ws: string,
  zone: Zone,
  now: number,
): Promise<{ sent: number; toCome: number }> {
  const today = dayNumber(zone, now);
  const dayEnd = fromWall(zone, (today + 1) * DAY);
  const mailed = await readTallies(db, ws, { whats: ['day:mailed'], days: { from: today, to: today } });
  const queued = await firstRow<{ n: number }>(
    db,
    sql`select count(*) as n from sends s join sequences q on q.workspace_id = s.workspace_id and q.id = s.sequence_id
        where s.workspace_id = ${ws} and s.visit_id is not null and s.status in ('queued', 'leased') and s.next_at < ${dayEnd} and q.status = 'live'`,
  );
  const live = await rows<LiveRow>(
    db,
    sql`select id, name, live_version from sequences where workspace_id = ${ws} and status = 'live'`,
  );
  // For one day what is known of each person says more than what others did.
  const counts = new Map<string, number>();
  const lots = await lotsOf(db, ws);
  let toCome = queued?.n ?? 0;
  const ids = live.map((s) => s.id);
  for await (const { effect } of insideUntil(db, ws, ids, counts, now, dayEnd - 1, lots.inside))
    if (effect.kind === 'send') toCome += lots.inside;
  for (const { id, live_version } of live) {
    const { run } = await loadVersion(db, ws, id, live_version);
    const joiners = await stillToBegin(db, ws, id, run.sequence, now, lots.everybody);
    toCome += fromArrivals(arrivalsOf(joiners, lots.everybody), run, counts, { first: today, zone }, new Map())[0] ?? 0;
  }
  return { sent: mailed.reduce((n, t) => n + t.n, 0), toCome: Math.round(toCome) };
}

const count = (out: number[], days: Days, at: number, n = 1) => {
  const day = dayNumber(days.zone, at) - days.first;
  if (day >= 0 && day < out.length) out[day] = (out[day] ?? 0) + n;
};

/** Emails by day to people who are still to begin. */
function fromArrivals(
  arrivals: readonly Arrival[],
  run: Runnable,
  counts: ReadonlyMap<string, number>,
  days: Days,
  given: GivenByDay,
): number[] {
  const out = noDays();
  const shareOf = (fork: Step, arm: string) => sharesOf(fork, counts)?.[armsOf(fork).findIndex((a) => a.id === arm)];
  for (const { at, zone, people } of arrivals) {
    for (const way of waysThrough(run, at, zone)) {
      const share = shareOfWay(way, run, shareOf);
      const known = new Set<string>();
      for (const l of way.landings) {
        count(out, days, l.at, people * share);
        const step = run.steps.get(l.step)?.step;
        const offer = step?.kind === 'email' ? step.email.offer : undefined;
        // The first email of a way that makes an offer gives it.
        if (offer === undefined || known.has(offer)) continue;
        known.add(offer);
        count(daysOf(given, offer), days, l.at, people * share);
      }
    }
  }
  return out;
}

/**
 * Emails a day over all live sequences for the next four weeks: to the people inside now, to those whom a moment takes in, and
 * to as many joiners a day as of late. By the same `advance` that sends; where the way depends on what people will do, they are taken to do as those
 * before them did. Where more are inside than can be led on one by one, a part of them chosen by lot stands for all.
 */
export async function forecast(db: Executor, ws: string, zoneName: string, now: number): Promise<ForecastAnswer> {
  const zone = zoneOf(zoneName);
  const days: Days = { first: dayNumber(zone, now), zone };
  const live = await rows<LiveRow>(
    db,
    sql`select id, name, live_version from sequences where workspace_id = ${ws} and status = 'live' order by name`,
  );
  const late = { from: days.first - FORECAST_DAYS + 1, to: days.first };
  const joined = tallied(await readTallies(db, ws, { whats: ['joined'], days: late }), (t) => t.sequence);
  const counts = await armCounts(db, ws);
  const given: GivenByDay = new Map();
  const collisions = new Collisions(FORECAST_DAYS);
  const lots = await lotsOf(db, ws);
  // Whoever may be met with both of two emails.
  const both = Math.max(lots.inside, lots.everybody);
  const mark = (person: string, at: number) => {
    if (chosen(person, both)) collisions.mark(person, dayNumber(zone, at) - days.first);
  };
  const runs = new Map<string, Runnable>();
  for (const s of live) runs.set(s.id, (await loadVersion(db, ws, s.id, s.live_version)).run);
  const inside = new Map(live.map((s) => [s.id, noDays()]));
  const end = addDays(zone, now, FORECAST_DAYS);
  for await (const { sequence, person, effect: e } of insideUntil(
    db,
    ws,
    [...runs.keys()],
    counts,
    now,
    end,
    lots.inside,
  )) {
    if (e.kind === 'grant') count(daysOf(given, e.offer), days, e.at, lots.inside);
    if (e.kind !== 'send') continue;
    count(inside.get(sequence) ?? [], days, e.dueAt, lots.inside);
    if (runs.get(sequence)?.sequence.list !== null) mark(person, e.dueAt);
  }
  const sequences = [];
  for (const { id, name } of live) {
    const run = runs.get(id) as Runnable;
    const oneOff = isOneOff(run.sequence);
    const joinersPerDay = oneOff ? 0 : sumOf(joined.get(id) ?? [], 'joined') / FORECAST_DAYS;
    const joiners = await stillToBegin(db, ws, id, run.sequence, now, lots.everybody);
    if (run.sequence.list !== null) for (const { person, at } of joiners) mark(person, at);
    const arrivals = [
      ...expectedJoiners(joinersPerDay, zone, days.first, FORECAST_DAYS),
      ...arrivalsOf(joiners, lots.everybody),
    ];
    sequences.push({
      id,
      name,
      joinersPerDay,
      oneOff,
      inside: inside.get(id) ?? [],
      joiners: fromArrivals(arrivals, run, counts, days, given),
    });
  }
  return {
    days: Array.from({ length: FORECAST_DAYS }, (_, i) => fromWall(zone, (days.first + i) * DAY)),
    sequences,
    offers: Object.fromEntries(given),
    oneIn: lots.inside,
    twice: collisions.counts().map((n) => n * both),
  };
}
