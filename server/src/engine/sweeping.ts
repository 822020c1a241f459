import { sql } from 'drizzle-orm';
import {
  addPeriod,
  DAY,
  dateMoments,
  HOUR,
  MINUTE,
  quietMoment,
  roughLength,
  zoneOf,
  type SweptTrigger,
  type TraceEntry,
  type TriggerOf,
} from '@ascenso/core';
import type { Connection, Tx } from '../db/connect.ts';
import { valueAt, testSql } from '../db/field-sql.ts';
import { firstRow, rows } from '../db/rows.ts';
import { enterSequence, openSequence, type OpenSequence } from '../people/entering.ts';
import { newcomers } from '../sequences/sweeps.ts';
import { attempt, handled, setAside } from './setting-aside.ts';

interface SweepRow {
  workspace_id: string;
  sequence_id: string;
  key: string;
  trigger: SweptTrigger;
  swept_to: number;
}

/** Somebody found by a sweep. `cause` tells this finding from the next one of the same person. */
interface Found {
  person: string;
  /** The event that it is about, with its payload, where it is about one. */
  event?: { name: string; payload: Record<string, unknown> };
  at: number;
  cause: string;
  told: TraceEntry['data'];
}

interface Swept {
  found: Found[];
  /** When to look again: the next moment that is known, a day at most. */
  nextAt: number;
}

/** People enter and leave segments at any time: they are looked at every hour. */
const SEGMENT_EVERY = HOUR;

const zoneColumn = sql`coalesce(p.zone, w.zone) as zone`;

/** Sorts what was read into what is due until now and when the next is. */
function dueUntil(now: number, moments: readonly Found[]): Swept {
  const later = moments.filter((m) => m.at > now).map((m) => m.at);
  return {
    found: moments.filter((m) => m.at <= now).sort((a, b) => a.at - b.at),
    nextAt: Math.min(now + DAY, ...later),
  };
}

const monthDay = (at: number) => new Date(at).toISOString().slice(5, 10);

/** Days of the calendar that a moment in (from, to] can belong to, wherever on earth: as text, and as month and day. */
function daysAround(
  trigger: TriggerOf<'date'>,
  from: number,
  to: number,
): { first: string; last: string; days: string[] } {
  const [a, b] = [from - (trigger.days + 2) * DAY, to - (trigger.days - 2) * DAY];
  const count = Math.min(367, Math.ceil((b - a) / DAY) + 1);
  const days = Array.from({ length: count }, (_, i) => monthDay(a + i * DAY));
  return {
    first: new Date(a).toISOString().slice(0, 10),
    last: new Date(b).toISOString().slice(0, 10),
    days: [...new Set(days.includes('02-28') || days.includes('03-01') ? [...days, '02-29'] : days)],
  };
}

async function sweepDates(tx: Tx, s: SweepRow, trigger: TriggerOf<'date'>, now: number): Promise<Swept> {
  const { first, last, days } = daysAround(trigger, s.swept_to, now + DAY);
  const value = sql`p.attributes->>${trigger.attribute}`;
  const near = trigger.yearly
    ? sql`substr(${value}, 6, 5) = any (${sql.param(days)}::text[])`
    : sql`left(${value}, 10) collate "C" between ${first} and ${last}`;
  const people = await rows<{ id: string; zone: string; date: string }>(
    tx,
    sql`select p.id, ${zoneColumn}, ${value} as date from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${s.workspace_id} and ${near}`,
  );
  return dueUntil(
    now,
    people.flatMap((p) =>
      dateMoments(trigger, p.date, zoneOf(p.zone), s.swept_to, now + DAY).map(({ at, occasion }) => ({
        person: p.id,
        at,
        cause: `date:${trigger.attribute}:${trigger.days}:${occasion}`,
        told: { date: trigger.attribute },
      })),
    ),
  );
}

/** Since when each person has not done it: the last time, or, where there was none, since there was something to do it with. */
function lastDone(trigger: TriggerOf<'quiet'>, ws: string) {
  if (trigger.what === 'event')
    return sql`select p.id, ${zoneColumn}, coalesce((select max(e.occurred_at) from events e where e.workspace_id = p.workspace_id and e.person_id = p.id and e.name = ${trigger.event}), p.created_at) as since
               from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${ws}`;
  const column = trigger.what === 'opened' ? sql`s.opened_at` : sql`s.clicked_at`;
  return sql`select p.id, ${zoneColumn}, greatest(max(${column}), min(s.sent_at)) as since
             from people p join workspaces w on w.id = p.workspace_id join sends s on s.workspace_id = p.workspace_id and s.person_id = p.id and s.visit_id is not null and s.status = 'sent'
             where p.workspace_id = ${ws} group by p.id, p.zone, w.zone`;
}

async function sweepQuiet(tx: Tx, s: SweepRow, trigger: TriggerOf<'quiet'>, now: number): Promise<Swept> {
  // A clock change moves a moment by an hour or two: the exact one is reckoned below.
  const [from, to] = [s.swept_to - trigger.days * DAY - 3 * HOUR, now + DAY - trigger.days * DAY + 3 * HOUR];
  const people = await rows<{ id: string; zone: string; since: number }>(
    tx,
    sql`select * from (${lastDone(trigger, s.workspace_id)}) q where q.since between ${from} and ${to}`,
  );
  return dueUntil(
    now,
    people.flatMap((p) => {
      const at = quietMoment(trigger, p.since, zoneOf(p.zone));
      if (at <= s.swept_to) return [];
      const what = trigger.what === 'event' ? trigger.event : trigger.what;
      return [{ person: p.id, at, cause: `quiet:${what}:${p.since}`, told: { quiet: what, days: trigger.days } }];
    }),
  );
}

/** Whoever did an event whose time is up, and nothing of the other kind meanwhile. */
async function sweepUnfollowed(tx: Tx, s: SweepRow, trigger: TriggerOf<'unfollowed'>, now: number): Promise<Swept> {
  const { event, where, without, within } = trigger;
  const length = roughLength(within.amount, within.unit);
  // A clock change moves a moment of days and weeks by an hour or two: the exact one is reckoned below.
  const margin = within.unit === 'hours' ? 0 : 3 * HOUR;
  const [from, to] = [s.swept_to - length - margin, now];
  const tests = where.map((t) => sql`and ${testSql(t, valueAt(sql`e.payload`, t.field))}`);
  const done = await rows<{
    id: string;
    person: string;
    zone: string;
    at: number;
    payload: Record<string, unknown>;
    after: number | null;
  }>(
    tx,
    sql`select e.id, e.person_id as person, ${zoneColumn}, e.occurred_at as at, e.payload,
          (select min(o.occurred_at) from events o where o.workspace_id = e.workspace_id and o.person_id = e.person_id and o.name = ${without} and o.occurred_at >= e.occurred_at) as after
        from events e join people p on p.workspace_id = e.workspace_id and p.id = e.person_id join workspaces w on w.id = e.workspace_id
        where e.workspace_id = ${s.workspace_id} and e.name = ${event} and e.occurred_at between ${from} and ${to} ${sql.join(tests, sql` `)}`,
  );
  const due = dueUntil(
    now,
    done.flatMap((d) => {
      const at = addPeriod(zoneOf(d.zone), d.at, within.amount, within.unit);
      if (at <= s.swept_to || (d.after !== null && d.after <= at)) return [];
      const told = { unfollowed: event, without };
      return [{ person: d.person, at, cause: d.id, told, event: { name: event, payload: d.payload } }];
    }),
  );
  // Of what happens from now on, nothing is due before a whole length has passed.
  return { ...due, nextAt: Math.min(due.nextAt, now + Math.max(MINUTE, length - margin)) };
}

async function sweepSegment(tx: Tx, s: SweepRow, trigger: TriggerOf<'segment'>, now: number): Promise<Swept> {
  const came = await newcomers(tx, s.workspace_id, s.sequence_id, trigger.segment, now);
  return {
    found: came.map((person) => ({
      person,
      at: now,
      cause: `segment:${trigger.segment}:${now}`,
      told: { segment: trigger.segment },
    })),
    nextAt: Math.floor(now / SEGMENT_EVERY) * SEGMENT_EVERY + SEGMENT_EVERY,
  };
}

function look(tx: Tx, s: SweepRow, now: number): Promise<Swept> {
  switch (s.trigger.kind) {
    case 'date':
      return sweepDates(tx, s, s.trigger, now);
    case 'quiet':
      return sweepQuiet(tx, s, s.trigger, now);
    case 'unfollowed':
      return sweepUnfollowed(tx, s, s.trigger, now);
    case 'segment':
      return sweepSegment(tx, s, s.trigger, now);
  }
}

/** Somebody whom a sweep could not let in. */
interface Kept extends Found {
  error: unknown;
}

/** Lets in whom a sweep has found; answers whom it could not. One person's failure undoes that person alone. */
async function letIn(tx: Tx, s: SweepRow, open: OpenSequence, found: readonly Found[], now: number): Promise<Kept[]> {
  const kept: Kept[] = [];
  for (const f of found) {
    const cause = { id: f.cause, event: f.event?.name ?? null, entry: f.event?.payload ?? {}, told: f.told };
    const error = await attempt(tx, async (part) => {
      await enterSequence(part, s.workspace_id, f.person, open, cause, { at: f.at, now });
    });
    if (error) kept.push({ ...f, error });
  }
  return kept;
}

const itemOf = (s: SweepRow) => `${s.sequence_id} ${s.key}`;

/** Leaves a sweep where it was: whom it has let in is inside, whom it could not is found again. */
async function setSweepAside(tx: Tx, s: SweepRow, error: unknown, person: string | null, now: number): Promise<void> {
  const what = { w: s.workspace_id, kind: 'sweep', item: itemOf(s), sequence: s.sequence_id, person } as const;
  const { nextAt } = await setAside(tx, what, error, now);
  await tx.execute(
    sql`update sweeps set next_at = ${nextAt} where workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id} and key = ${s.key}`,
  );
}

/**
 * Runs one sweep that is due, whoever it is for. Any number of processes may: each takes another. One that fails is set
 * aside, the others go on. Answers how many it ran.
 */
export async function sweepRound(connection: Connection, now: number): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const s = await firstRow<SweepRow>(
      tx,
      sql`select workspace_id, sequence_id, key, trigger, swept_to from sweeps where next_at <= ${now} order by next_at limit 1 for update skip locked`,
    );
    if (!s) return 0;
    const failed = await attempt(tx, async (part) => {
      const open = await openSequence(part, s.workspace_id, s.sequence_id);
      // One that is put away is looked at too: out of the archive, it takes in nobody for what happened meanwhile.
      const { found, nextAt } = await look(part, s, now);
      const kept = open ? await letIn(part, s, open, found, now) : [];
      if (kept[0]) {
        await forgetMembers(part, s, kept);
        return setSweepAside(part, s, kept[0].error, kept[0].person, now);
      }
      await part.execute(
        sql`update sweeps set swept_to = ${now}, next_at = ${nextAt} where workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id} and key = ${s.key}`,
      );
      await handled(part, 'sweep', [{ w: s.workspace_id, item: itemOf(s) }]);
    });
    if (failed) await setSweepAside(tx, s, failed, null, now);
    return 1;
  });
}

/** Who could not be let in from a segment is a newcomer again the next time. */
async function forgetMembers(tx: Tx, s: SweepRow, kept: readonly Found[]): Promise<void> {
  await tx.execute(
    sql`delete from sweep_members where workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id} and person_id = any (${sql.param(kept.map((k) => k.person))}::uuid[])`,
  );
}
