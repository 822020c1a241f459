import { sql } from 'drizzle-orm';
import type { ForecastAnswer } from '@ascenso/contracts';
import {
  addDays,
  advance,
  armsOf,
  DAY,
  dayNumber,
  type Effect,
  type Facts,
  fromWall,
  isOneOff,
  type Runnable,
  shareOf,
  type Step,
  type Zone,
  zoneOf,
} from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { arrivalsOf, expectedJoiners, stillToBegin, type Arrival } from './arrivals.ts';
import { Collisions } from './collisions.ts';
import { andChosen, chosen, lotsOf } from './sampling.ts';
import { shareOfWay, waysThrough } from './ways.ts';
import { firstRow, rows } from '../db/rows.ts';
import { loadFacts } from '../db/facts.ts';
import { ARMS_TAKEN } from '../db/numbers.ts';
import { readTallies, sumOf, tallied } from '../db/tallies.ts';
import { loadVersion, lookAtVersion, type LoadedVersion } from '../db/versions.ts';
import { splitTestsOf } from '../sequences/split-tests.ts';
import { toVisit, VISIT_COLUMNS, type VisitRow } from '../people/visits.ts';

/** Days that are looked ahead, and looked back for how many people join. */
export const FORECAST_DAYS = 28;
const CHUNK = 1000;
/** Fewer people than this at a fork say nothing about those to come. */
const ENOUGH = 20;

interface LiveRow {
  id: string;
  name: string;
  live_version: number;
}

/** How many took each arm so far, by arm id. */
async function armCounts(db: Executor, ws: string): Promise<Map<string, number>> {
  const out = new Map<string, number>();
  for (const { detail, n } of await readTallies(db, ws, { whats: ARMS_TAKEN }))
    out.set(detail, (out.get(detail) ?? 0) + n);
  return out;
}

/** Shares of the arms of a fork, as people took them so far; null where too few have come by. */
function sharesOf(fork: Step, counts: ReadonlyMap<string, number>): number[] | null {
  const taken = armsOf(fork).map((a) => counts.get(a.id) ?? 0);
  const all = taken.reduce((a, b) => a + b, 0);
  return fork.kind !== 'split' && all >= ENOUGH ? taken.map((n) => n / all) : null;
}

/** The arm that a person is taken to go: by lot, as others before them; null leaves it to what is known. */
function likelyArm(fork: Step, person: string, counts: ReadonlyMap<string, number>): string | undefined {
  const shares = sharesOf(fork, counts);
  let at = shareOf(`${fork.id}/${person}/forecast`);
  return shares ? armsOf(fork).find((_, i) => (at -= shares[i] ?? 0) < 0)?.id : undefined;
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

/** Something that somebody inside a sequence is expected to meet. */
interface Met {
  sequence: string;
  person: string;
  effect: Effect;
}

/**
 * What one in `sample` of the people inside sequences are expected to be sent and given until `end`, each led on by
 * `advance`. All sequences at once: a workspace has many, and most of them hold few.
 */
async function* insideUntil(
  db: Executor,
  ws: string,
  sequences: readonly string[],
  counts: ReadonlyMap<string, number>,
  now: number,
  end: number,
  sample: number,
): AsyncGenerator<Met> {
  // What is not decided yet is walked as if by lot.
  const decided = Object.fromEntries(
    (await splitTestsOf(db, sequences)).flatMap((t) => (t.arm ? [[t.step, { arm: t.arm, decidesAt: null }]] : [])),
  );
  for (let after = '00000000-0000-0000-0000-000000000000'; sequences.length > 0;) {
    const some = await rows<VisitRow>(
      db,
      sql`select ${VISIT_COLUMNS} from visits v
          where v.workspace_id = ${ws} and v.sequence_id = any (${sql.param(sequences)}::uuid[]) and v.status = 'active' and v.due_at <= ${end} and v.id > ${after} ${andChosen(sql`v.person_id`, sample)}
          order by v.id limit ${CHUNK}`,
    );
    const standing: { row: VisitRow; version: LoadedVersion }[] = [];
    for (const row of some) {
      const version = await lookAtVersion(db, ws, row.sequence_id, row.version);
      if (version) standing.push({ row, version });
    }
    const facts = await loadFacts(
      db,
      standing.map(({ row, version }) => ({
        workspace_id: ws,
        visit_id: row.id,
        person_id: row.person_id,
        ...version.needs,
      })),
    );
    for (const { row, version } of standing) {
      const known = facts.get(row.id);
      const likely: Runnable = { ...version.run, choose: (fork) => likelyArm(fork, row.person_id, counts) };
      if (!known) continue;
      for (const effect of effectsOf(row, likely, { ...known, tests: decided }, now, end))
        yield { sequence: row.sequence_id, person: row.person_id, effect };
    }
    if (some.length < CHUNK) return;
    after = some.at(-1)?.id ?? after;
  }
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

/** What a visit under way is expected to bring until a moment. An offer that is given is theirs from then on. */
function effectsOf(row: VisitRow, run: Runnable, facts: Facts, now: number, end: number): Effect[] {
  const out: Effect[] = [];
  const offers = { ...facts.offers };
  let { person } = facts;
  let visit = toVisit(row);
  while (visit.status === 'active' && visit.dueAt <= end) {
    const done = advance(visit, run, { ...facts, person, offers }, Math.max(now, visit.dueAt));
    out.push(...done.effects);
    person = done.person;
    for (const e of done.effects) {
      const known = e.kind === 'grant' ? offers[e.offer] : undefined;
      if (known && e.kind === 'grant')
        offers[e.offer] = { ...known, given: { openedAt: e.at, closesAt: e.closes, code: null, usedAt: null } };
    }
    visit = done.visit;
  }
  return out;
}

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
