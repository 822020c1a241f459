import { sql, type SQL } from 'drizzle-orm';
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
  type TriggerOf,
} from '@ascenso/core';
import type { Connection, Tx } from '../db/connect.ts';
import { valueAt, testSql } from '../db/field-sql.ts';
import { NEVER } from '../db/leaving.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { loadVersion } from '../db/versions.ts';
import { openSequence } from '../people/entering.ts';
import { enterAll, type Cause, type Entrant, type OpenSequence } from '../people/passages.ts';
import { newcomers } from '../sequences/sweeps.ts';
import { sweepMoment, type Pass } from './moments.ts';
import { attempt, handled, isolating, setAside } from './setting-aside.ts';

interface SweepRow {
  workspace_id: string;
  sequence_id: string;
  key: string;
  trigger: SweptTrigger;
  swept_to: number;
  next_at: number;
  begun_at: number;
  pass_to: number | null;
  pass_after: string | null;
  pass_failed: boolean;
}

interface Swept {
  /** Whom it has found. The cause's id tells this finding from the next one of the same person. */
  found: Entrant[];
  /** When to look again: the next moment that is known, a day at most. */
  nextAt: number;
  /** How far it has come, where it looks at a page of people at a time. */
  pass?: Pass;
}

/** People let in by one statement. */
const CHUNK = 500;

/** People enter and leave segments at any time: they are looked at every hour. */
const SEGMENT_EVERY = HOUR;

/** What a sweep finds without an event. */
const causeOf = (id: string, told: Cause['told']): Cause => ({ id, event: null, entry: {}, told });

const zoneColumn = sql`coalesce(p.zone, w.zone) as zone`;

/** Sorts what was read into what is due until now and when the next is. */
function dueUntil(now: number, moments: readonly Entrant[]): Swept {
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

/**
 * Whose date has come. One that is set after its moment counts for 24 hours, as an event that is told late does, whatever
 * others made this sweep look at meanwhile: it looks back that far from when it was asked to, and notes whom it has seen to.
 */
async function sweepDates(tx: Tx, s: SweepRow, trigger: TriggerOf<'date'>, now: number): Promise<Swept> {
  const after = Math.max(s.begun_at, Math.min(s.swept_to, s.next_at - DAY - 1));
  const { first, last, days } = daysAround(trigger, after, now + DAY);
  const value = sql`p.attributes->>${trigger.attribute}`;
  const near = trigger.yearly
    ? sql`substr(${value}, 6, 5) = any (${sql.param(days)}::text[])`
    : sql`left(${value}, 10) collate "C" between ${first} and ${last}`;
  const people = await rows<{ id: string; zone: string; date: string }>(
    tx,
    sql`select p.id, ${zoneColumn}, ${value} as date from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${s.workspace_id} and ${near}`,
  );
  const due = dueUntil(
    now,
    people.flatMap((p) =>
      dateMoments(trigger, p.date, zoneOf(p.zone), after, now + DAY).map(({ at, occasion }) => ({
        person: p.id,
        at,
        cause: causeOf(`date:${trigger.attribute}:${trigger.days}:${occasion}`, { date: trigger.attribute }),
      })),
    ),
  );
  return { ...due, found: await notSeenTo(tx, s, due.found, now) };
}

/** Those of some days that have not been asked about yet; they have now. */
async function notSeenTo(tx: Tx, s: SweepRow, found: readonly Entrant[], now: number): Promise<Entrant[]> {
  const of = sql`workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id}`;
  await tx.execute(sql`delete from swept_dates where ${of} and at < ${Math.min(s.swept_to, now) - 3 * DAY}`);
  if (found.length === 0) return [];
  const asked = batch(found.map((e) => ({ person: e.person, cause: e.cause.id, at: e.at })));
  const fresh = await rows<{ person: string; cause: string }>(
    tx,
    sql`insert into swept_dates (workspace_id, sequence_id, person_id, cause_id, at)
        select ${s.workspace_id}, ${s.sequence_id}, n.person, n.cause, n.at from jsonb_to_recordset(${asked}) as n(person uuid, cause text, at bigint)
        on conflict do nothing returning person_id as person, cause_id as cause`,
  );
  const known = new Set(fresh.map((e) => `${e.person} ${e.cause}`));
  return found.filter((e) => known.has(`${e.person} ${e.cause.id}`));
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
      return [{ person: p.id, at, cause: causeOf(`quiet:${what}:${p.since}`, { quiet: what, days: trigger.days }) }];
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
      const cause = { id: d.id, event, entry: d.payload, told: { unfollowed: event, without } };
      return [{ person: d.person, at, cause }];
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
      cause: causeOf(`segment:${trigger.segment}:${now}`, { segment: trigger.segment }),
    })),
    nextAt: Math.floor(now / SEGMENT_EVERY) * SEGMENT_EVERY + SEGMENT_EVERY,
  };
}

async function look(tx: Tx, s: SweepRow, open: OpenSequence | undefined, now: number): Promise<Swept> {
  switch (s.trigger.kind) {
    case 'date':
      return sweepDates(tx, s, s.trigger, now);
    case 'quiet':
      return sweepQuiet(tx, s, s.trigger, now);
    case 'unfollowed':
      return sweepUnfollowed(tx, s, s.trigger, now);
    case 'segment':
      return sweepSegment(tx, s, s.trigger, now);
    case 'moment': {
      const audience = open && (await loadVersion(tx, s.workspace_id, open.id, open.live_version)).run.sequence;
      return sweepMoment(tx, s, s.trigger, audience ?? null, now);
    }
  }
}

/** Somebody whom a sweep could not let in. */
interface Kept {
  person: string;
  cause: string;
  error: unknown;
}

/** Lets in whom a sweep has found; answers whom it could not. One person's failure undoes that person alone. */
async function letIn(tx: Tx, s: SweepRow, open: OpenSequence, found: readonly Entrant[], now: number): Promise<Kept[]> {
  const kept: Kept[] = [];
  for (let i = 0; i < found.length; i += CHUNK)
    await isolating(
      found.slice(i, i + CHUNK),
      (some) =>
        tx.transaction(async (part) => {
          await enterAll(part, s.workspace_id, open, some, now);
        }),
      async ({ person, cause }, error) => {
        kept.push({ person, cause: cause.id, error });
      },
    );
  return kept;
}

const itemOf = (s: SweepRow) => `${s.sequence_id} ${s.key}`;

const setSweep = (tx: Tx, s: SweepRow, what: SQL) =>
  tx.execute(
    sql`update sweeps set ${what} where workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id} and key = ${s.key}`,
  );

/** Notes that a sweep, or somebody in it, failed. Answers when it is tried again. */
async function noteAside(tx: Tx, s: SweepRow, error: unknown, person: string | null, now: number): Promise<number> {
  const what = { w: s.workspace_id, kind: 'sweep', item: itemOf(s), sequence: s.sequence_id, person } as const;
  return (await setAside(tx, what, error, now)).nextAt;
}

const isHandled = (tx: Tx, s: SweepRow) => handled(tx, 'sweep', [{ w: s.workspace_id, item: itemOf(s) }]);

/** Writes how far a sweep has come that looks at everybody at once. Who could not be let in is found again. */
async function settle(tx: Tx, s: SweepRow, nextAt: number, kept: readonly Kept[], now: number): Promise<void> {
  if (kept[0]) {
    await forgetFound(tx, s, kept);
    await setSweep(tx, s, sql`next_at = ${await noteAside(tx, s, kept[0].error, kept[0].person, now)}`);
    return;
  }
  await setSweep(tx, s, sql`swept_to = ${now}, next_at = ${nextAt}`);
  await isHandled(tx, s);
}

/**
 * Writes how far a look over several rounds has come. Whoever could not be let in holds up nobody: the look is taken once
 * more for them, when it has come to its end.
 */
async function settlePass(
  tx: Tx,
  s: SweepRow,
  nextAt: number,
  pass: Pass,
  kept: readonly Kept[],
  now: number,
): Promise<void> {
  const again = kept[0] ? await noteAside(tx, s, kept[0].error, kept[0].person, now) : null;
  const failed = again !== null || s.pass_failed;
  if (pass.more)
    await setSweep(
      tx,
      s,
      sql`next_at = ${now}, pass_to = ${pass.to}, pass_after = ${pass.after}, pass_failed = ${failed}`,
    );
  else if (failed)
    await setSweep(
      tx,
      s,
      sql`next_at = ${again ?? now + MINUTE}, pass_to = ${pass.to}, pass_after = null, pass_failed = false`,
    );
  else {
    await setSweep(tx, s, sql`swept_to = ${pass.to}, next_at = ${nextAt}, pass_to = null, pass_after = null`);
    await isHandled(tx, s);
    if (nextAt === NEVER)
      await tx.execute(
        sql`update sequences set let_in_at = ${now} where workspace_id = ${s.workspace_id} and id = ${s.sequence_id}`,
      );
  }
}

/**
 * Runs one sweep that is due, whoever it is for. Any number of processes may: each takes another. One that fails is set
 * aside, the others go on. Answers how many it ran.
 */
export async function sweepRound(connection: Connection, now: number): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const s = await firstRow<SweepRow>(
      tx,
      sql`select workspace_id, sequence_id, key, trigger, swept_to, next_at, begun_at, pass_to, pass_after, pass_failed from sweeps where next_at <= ${now} order by next_at, workspace_id, sequence_id, key limit 1 for update skip locked`,
    );
    if (!s) return 0;
    const failed = await attempt(tx, async (part) => {
      const open = await openSequence(part, s.workspace_id, s.sequence_id);
      const { found, nextAt, pass } = await look(part, s, open, now);
      // One that is put away is looked at too: out of the archive, it takes in nobody for what happened meanwhile.
      const kept = open ? await letIn(part, s, open, found, now) : [];
      if (pass) await settlePass(part, s, nextAt, pass, kept, now);
      else await settle(part, s, nextAt, kept, now);
    });
    if (failed) await setSweep(tx, s, sql`next_at = ${await noteAside(tx, s, failed, null, now)}`);
    return 1;
  });
}

/** Who could not be let in is found again the next time: a newcomer to a segment, somebody whose date has come. */
async function forgetFound(tx: Tx, s: SweepRow, kept: readonly Kept[]): Promise<void> {
  const those = sql`workspace_id = ${s.workspace_id} and sequence_id = ${s.sequence_id}`;
  const them = batch(kept.map(({ person, cause }) => ({ person, cause })));
  await tx.execute(
    sql`delete from sweep_members where ${those} and person_id in (select n.person from jsonb_to_recordset(${them}) as n(person uuid))`,
  );
  await tx.execute(
    sql`delete from swept_dates where ${those} and (person_id, cause_id) in (select n.person, n.cause from jsonb_to_recordset(${them}) as n(person uuid, cause text))`,
  );
}
