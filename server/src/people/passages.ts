import { and, eq, sql } from 'drizzle-orm';
import {
  addDays,
  earlyEnd,
  earlyEnds,
  enter,
  evaluate,
  readPath,
  shareOf,
  zoneOf,
  type TraceEntry,
} from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { loadFacts } from '../db/facts.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { visits } from '../db/schema/index.ts';
import { loadVersion, lookAtVersion, type LoadedVersion } from '../db/versions.ts';
import { recallEmails } from './cancelling.ts';
import { writeTraces, type Reason } from './traces.ts';
import { toVisit, VISIT_COLUMNS, writeVisits, type VisitRow } from './visits.ts';

/** What brings one person into one sequence. `id` makes it count once for each sequence. */
export interface Cause {
  id: string;
  /** Name of the event that brings it, or null. */
  event: string | null;
  /** Payload that the passage keeps. */
  entry: Record<string, unknown>;
  /** How the story tells it. */
  told: TraceEntry['data'];
}

/** When something happened, and when we know of it (business clock, epoch ms): never the other way round. */
export interface When {
  at: number;
  now: number;
}

/** A sequence that can be entered: live, or paused, where people wait at its beginning. */
export interface OpenSequence {
  id: string;
  live_version: number;
}

/** Somebody whom something brings into a sequence, at the moment of it. */
export interface Entrant {
  person: string;
  cause: Cause;
  at: number;
}

/** What is known of an entrant's earlier passages. */
interface Before {
  person: string;
  zone: string;
  /** The passage under way, what started it, and when that happened. */
  active: string | null;
  active_event: string | null;
  active_at: number | null;
  /** Entry of the latest passage. */
  last: number | null;
  /** True where they were inside, in a passage that has ended since, when this happened. */
  was_inside: boolean;
}

/** What keeps parallel passages apart: the value of the named field of the starting event, as text. */
export function keyOf(entry: Record<string, unknown>, field: string): string {
  const value = field ? readPath(entry, field) : undefined;
  return typeof value === 'string' || typeof value === 'number' ? String(value).slice(0, 200) : '';
}

function mayAgain(rules: { again: string; days: number }, last: number, zone: string, at: number): boolean {
  if (rules.again === 'once') return false;
  return rules.again === 'after-leaving' || addDays(zoneOf(zone), last, rules.days) <= at;
}

/** The entrants whose people are there, locked in the order of their ids, each with what went before. */
async function lookedUp(
  tx: Tx,
  ws: string,
  sequence: string,
  entrants: readonly (Entrant & { key: string })[],
): Promise<Map<string, Before>> {
  const asked = batch(entrants.map(({ person, key, at }) => ({ person, key, at })));
  await tx.execute(
    sql`select p.id from people p where p.workspace_id = ${ws} and p.id in (select n.person from jsonb_to_recordset(${asked}) as n(person uuid)) order by p.id for update of p`,
  );
  const found = await rows<Before>(
    tx,
    sql`select n.person, coalesce(p.zone, w.zone) as zone, b.* from jsonb_to_recordset(${asked}) as n(person uuid, key text, "at" bigint)
        join people p on p.workspace_id = ${ws} and p.id = n.person join workspaces w on w.id = p.workspace_id
        left join lateral (
          select max(v.id::text) filter (where v.status = 'active') as active, max(v.entry_event) filter (where v.status = 'active') as active_event,
            max(v.entry_at) filter (where v.status = 'active') as active_at, max(v.entered_at) filter (where v.ending is distinct from 'undone') as last, coalesce(bool_or(v.entered_at <= n."at" and v.ended_at > n."at"), false) as was_inside
          from visits v where v.workspace_id = ${ws} and v.sequence_id = ${sequence} and v.person_id = n.person and v.entry_key = n.key) b on true`,
  );
  return new Map(found.map((b) => [b.person, b]));
}

/** Whether the rules let somebody in anew, as far as earlier passages decide it. What goes on in one of these is brought up to date. */
async function mayBegin(
  tx: Tx,
  ws: string,
  { sequence }: LoadedVersion['run'],
  { person, cause, at }: Entrant,
  before: Before,
): Promise<boolean> {
  if (before.active && !(await endedEarly(tx, ws, person, before.active, at))) {
    // The cart changed: whoever is inside goes on with the newest of the same kind, whichever was told first.
    if (cause.event !== null && cause.event === before.active_event && at >= (before.active_at ?? 0))
      await tx
        .update(visits)
        .set({ entry: cause.entry, entryAt: at })
        .where(and(eq(visits.workspaceId, ws), eq(visits.id, before.active)));
    return false;
  }
  // Told late: what came after it has begun a passage since, or it fell into one.
  if (before.was_inside || (before.last !== null && before.last > at)) return false;
  return before.last === null || mayAgain(sequence.entry, before.last, before.zone, at);
}

/**
 * Whether a passage under way had come to its goal or rule for leaving before a moment: then it ends here, and what happened at that moment
 * can begin another. The engine would see it in its next round, but by then the new cart had gone into the old passage.
 */
export async function endedEarly(tx: Tx, ws: string, personId: string, visit: string, at: number): Promise<boolean> {
  const row = await firstRow<VisitRow>(
    tx,
    sql`select ${VISIT_COLUMNS} from visits v where v.workspace_id = ${ws} and v.id = ${visit}::uuid`,
  );
  if (!row) return false;
  // A passage that cannot be read is the engine's to set aside: a sender's events are taken all the same.
  const version = await lookAtVersion(tx, ws, row.sequence_id, row.version);
  if (!version || earlyEnds(version.run.sequence).length === 0) return false;
  const { run, needs } = version;
  const facts = (await loadFacts(tx, [{ workspace_id: ws, visit_id: row.id, person_id: personId, ...needs }])).get(
    row.id,
  );
  const standing = toVisit(row);
  const asking = { now: at - 1, enteredAt: standing.enteredAt, stepTimes: standing.stepTimes };
  const end = facts ? earlyEnd(run, { ...asking, facts }, standing.cause) : null;
  if (!end) return false;
  await writeVisits(tx, [
    {
      w: ws,
      visit: {
        ...standing,
        status: 'done',
        step: null,
        dueAt: 0,
        endedAt: at,
        ending: end === 'goal' ? 'goal' : 'left',
      },
    },
  ]);
  await recallEmails(tx, sql`s.workspace_id = ${ws} and s.visit_id = ${row.id}`, { why: end, at });
  await writeTraces(tx, [
    {
      w: ws,
      person: personId,
      visit: row.id,
      seq: row.sequence_id,
      version: row.version,
      at,
      step: row.step,
      code: end === 'goal' ? 'goal-reached' : 'left-by-rule',
      data: {},
    },
  ]);
  return true;
}

/** Those of some entrants who pass the filter, asked of what is known now. */
async function passing<T extends Entrant>(
  tx: Tx,
  ws: string,
  { run, needs }: LoadedVersion,
  entrants: readonly T[],
  now: number,
): Promise<Set<T>> {
  const { filter } = run.sequence;
  if (!filter || entrants.length === 0) return new Set(entrants);
  const facts = await loadFacts(
    tx,
    entrants.map(({ person }) => ({
      workspace_id: ws,
      visit_id: person,
      person_id: person,
      ...needs,
      emails: false,
      links: false,
    })),
  );
  return new Set(
    entrants.filter(({ person, at }) => {
      const known = facts.get(person);
      return known !== undefined && evaluate(filter, { facts: known, now, enteredAt: at, stepTimes: {} });
    }),
  );
}

/**
 * Makes the passages of some people in one sequence, under their locks, which decide who may enter again. Each begins at
 * the moment of its cause, however late we heard. Nobody stands among them twice. Answers who is inside now because of it.
 */
async function enterOnce(
  tx: Tx,
  ws: string,
  s: OpenSequence,
  entrants: readonly Entrant[],
  now: number,
): Promise<string[]> {
  const version = await loadVersion(tx, ws, s.id, s.live_version);
  const { sequence } = version.run;
  const keyed = entrants.map((e) => ({ ...e, key: keyOf(e.cause.entry, sequence.entry.key) }));
  const before = await lookedUp(tx, ws, s.id, keyed);
  const allowed: typeof keyed = [];
  for (const e of keyed) {
    const known = before.get(e.person);
    if (known && (await mayBegin(tx, ws, version.run, e, known))) allowed.push(e);
  }
  const told = (e: Entrant, visit: string, code: Reason['code'], data: TraceEntry['data']): Reason => ({
    w: ws,
    person: e.person,
    visit,
    seq: s.id,
    version: s.live_version,
    at: e.at,
    step: null,
    code,
    data,
  });
  const through = await passing(tx, ws, version, allowed, now);
  const reasons = allowed.filter((e) => !through.has(e)).map((e) => told(e, newId(), 'not-entered', {}));
  const begun = [...through].map((e) => ({
    ...e,
    heldOut: shareOf(`${s.id}/holdout/${e.person}`) * 100 < sequence.entry.holdout,
    visit: enter(newId(), s.id, s.live_version, version.run, e.at, e.cause.entry),
  }));
  const made =
    begun.length === 0
      ? []
      : await tx
          .insert(visits)
          .values(
            begun.map(({ person, cause, at, key, heldOut, visit }) => ({
              workspaceId: ws,
              id: visit.id,
              sequenceId: s.id,
              version: s.live_version,
              personId: person,
              causeId: cause.id,
              status: heldOut ? ('done' as const) : visit.status,
              step: heldOut ? null : visit.step,
              enteredAt: at,
              arrivedAt: at,
              dueAt: at,
              wakeAt: at,
              held: false,
              heldOut,
              entryKey: key,
              entryEvent: cause.event,
              stepTimes: {},
              entry: cause.entry,
              entryAt: at,
            })),
          )
          .onConflictDoNothing()
          .returning({ id: visits.id });
  const ids = new Set(made.map((v) => v.id));
  const inside = begun.filter((b) => ids.has(b.visit.id));
  await writeTraces(tx, [
    ...reasons,
    ...inside.map((b) => told(b, b.visit.id, b.heldOut ? 'held-out' : 'entered', b.cause.told)),
  ]);
  return inside.filter((b) => !b.heldOut).map((b) => b.person);
}

/**
 * Lets people into a sequence, as far as its rules let them; somebody who is brought twice is let in once for each cause,
 * one after the other. Answers who is inside now because of it.
 */
export async function enterAll(
  tx: Tx,
  ws: string,
  s: OpenSequence,
  entrants: readonly Entrant[],
  now: number,
): Promise<Set<string>> {
  const inside = new Set<string>();
  for (let rest = entrants; rest.length > 0;) {
    const first = new Map<string, Entrant>();
    const again: Entrant[] = [];
    for (const e of rest) {
      if (first.has(e.person)) again.push(e);
      else first.set(e.person, e);
    }
    for (const person of await enterOnce(tx, ws, s, [...first.values()], now)) inside.add(person);
    rest = again;
  }
  return inside;
}
