import { sql } from 'drizzle-orm';
import {
  addDays,
  enter,
  evaluate,
  readPath,
  shareOf,
  startedBy,
  zoneOf,
  type Happening,
  type TraceEntry,
  type Trigger,
} from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { cancelQueued } from './cancelling.ts';
import { loadFacts } from './facts.ts';
import { loadVersion, type LoadedVersion } from './versions.ts';

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

/** A sequence that can be entered: live, or paused, where people wait at its beginning. */
export interface OpenSequence {
  id: string;
  live_version: number;
}

/** A sequence that starts another that starts another …: a chain of causes ends here (architecture, 19). */
const LONGEST_CHAIN = 8;
/** How long the chain is that a visit's cause stands at the end of; 0 for what came from outside. */
export const chainOf = (causeId: string): number => Number(/#(\d+)$/.exec(causeId)?.[1] ?? 0);
const causeId = (id: string, chain: number) => (chain > 0 ? `${id}#${chain}` : id);

const OPEN = sql`s.status in ('live', 'paused') and s.live_version is not null`;

function toldBy(it: Happening): TraceEntry['data'] {
  switch (it.kind) {
    case 'event':
      return { event: it.event };
    case 'list':
      return { list: it.list, what: it.what };
    case 'tag':
      return { tag: it.tag, what: it.what };
    case 'reading':
      return { reading: it.what };
    case 'attribute':
      return {};
  }
}

/** The name of the attribute that started it is in the trigger, not in what happened. */
const toldAttribute = (triggers: readonly Trigger[], it: Happening): TraceEntry['data'] => {
  const trigger = triggers.find((t) => t.kind === 'attribute' && startedBy(t, it));
  return trigger?.kind === 'attribute' ? { attribute: trigger.test.field } : {};
};

/**
 * Starts the sequences that something starts for a person, in the caller's transaction. `id` tells it from every other
 * thing that happened; `at` is the business clock, epoch ms; `chain` how many sequences started each other before it.
 */
export async function happen(
  tx: Tx,
  ws: string,
  personId: string,
  it: Happening,
  id: string,
  at: number,
  chain = 0,
): Promise<void> {
  if (chain > LONGEST_CHAIN) return;
  const open = await rows<OpenSequence & { triggers: Trigger[] }>(
    tx,
    sql`select s.id, s.live_version, s.triggers from sequences s where s.workspace_id = ${ws} and ${OPEN}`,
  );
  for (const s of open)
    if (s.triggers.some((t) => startedBy(t, it)))
      await enterSequence(
        tx,
        ws,
        personId,
        s,
        {
          id: causeId(id, chain),
          event: it.kind === 'event' ? it.event : null,
          entry: it.kind === 'event' ? it.payload : {},
          told: it.kind === 'attribute' ? toldAttribute(s.triggers, it) : toldBy(it),
        },
        at,
      );
}

/** A sequence that people can enter now, or undefined. */
export const openSequence = (db: Executor, ws: string, id: string): Promise<OpenSequence | undefined> =>
  firstRow<OpenSequence>(
    db,
    sql`select s.id, s.live_version from sequences s where s.workspace_id = ${ws} and s.id::text = ${id} and ${OPEN}`,
  );

/** Starts one sequence for a person because another one says so. A chain of these ends after eight. */
export async function startFrom(
  tx: Tx,
  ws: string,
  personId: string,
  sequence: string,
  from: { visit: string; sequence: string; step: string; cause: string },
  at: number,
): Promise<void> {
  const chain = chainOf(from.cause) + 1;
  const open = chain > LONGEST_CHAIN ? undefined : await openSequence(tx, ws, sequence);
  if (open)
    await enterSequence(
      tx,
      ws,
      personId,
      open,
      { id: causeId(`start:${from.visit}:${from.step}`, chain), event: null, entry: {}, told: { by: from.sequence } },
      at,
    );
}

/**
 * Makes the visit of one person in one sequence, under the person's lock, which decides who may enter again. Answers
 * whether they are inside now because of it.
 */
export async function enterSequence(
  tx: Tx,
  ws: string,
  personId: string,
  s: OpenSequence,
  cause: Cause,
  at: number,
): Promise<boolean> {
  const person = await firstRow<{ zone: string }>(
    tx,
    sql`select coalesce(p.zone, w.zone) as zone from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${ws} and p.id = ${personId} for update of p`,
  );
  if (!person) return false;
  const version = await loadVersion(tx, ws, s.id, s.live_version);
  const { sequence } = version.run;
  const key = keyOf(cause.entry, sequence.entry.key);
  const before = await firstRow<{ active: string | null; active_event: string | null; last: number | null }>(
    tx,
    sql`select max(id::text) filter (where status = 'active') as active, max(entry_event) filter (where status = 'active') as active_event, max(entered_at) as last
        from visits where workspace_id = ${ws} and sequence_id = ${s.id} and person_id = ${personId} and entry_key = ${key}`,
  );
  if (before?.active) {
    // The cart changed: whoever is inside goes on with the newest of the same kind.
    if (cause.event !== null && cause.event === before.active_event)
      await tx.execute(
        sql`update visits set entry = ${JSON.stringify(cause.entry)}::jsonb where workspace_id = ${ws} and id = ${before.active}::uuid`,
      );
    return false;
  }
  if (before?.last != null && !mayAgain(sequence.entry, before.last, person.zone, at)) return false;
  if (sequence.filter && !(await passesFilter(tx, ws, personId, version, at))) {
    await tellEntry(tx, ws, personId, newId(), s, at, 'not-entered', {});
    return false;
  }
  const heldOut = shareOf(`${s.id}/holdout/${personId}`) * 100 < sequence.entry.holdout;
  const visit = enter(newId(), s.id, s.live_version, version.run, at, cause.entry);
  const made = await rows(
    tx,
    sql`insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, step, entered_at, arrived_at, due_at, next_due_at, held, held_out, entry_key, entry_event, step_times, entry)
        values (${ws}, ${visit.id}, ${s.id}, ${s.live_version}, ${personId}, ${cause.id}, ${heldOut ? 'done' : visit.status}, ${heldOut ? null : visit.step}, ${at}, ${at}, ${at}, ${at}, false, ${heldOut}, ${key}, ${cause.event}, '{}', ${JSON.stringify(cause.entry)}::jsonb)
        on conflict do nothing returning id`,
  );
  if (made.length === 0) return false;
  await tellEntry(tx, ws, personId, visit.id, s, at, heldOut ? 'held-out' : 'entered', cause.told);
  return !heldOut;
}

/** What keeps parallel passages apart: the value of the named field of the starting event, as text. */
function keyOf(entry: Record<string, unknown>, field: string): string {
  const value = field ? readPath(entry, field) : undefined;
  return typeof value === 'string' || typeof value === 'number' ? String(value).slice(0, 200) : '';
}

function mayAgain(rules: { again: string; days: number }, last: number, zone: string, at: number): boolean {
  if (rules.again === 'once') return false;
  return rules.again === 'after-leaving' || addDays(zoneOf(zone), last, rules.days) <= at;
}

/** Whether a person may enter, asked in the moment of entry: only what is known of them then can count. */
async function passesFilter(
  tx: Tx,
  ws: string,
  personId: string,
  { run, needs }: LoadedVersion,
  at: number,
): Promise<boolean> {
  const wanted = { workspace_id: ws, visit_id: personId, person_id: personId };
  const facts = await loadFacts(tx, [{ ...wanted, ...needs, emails: false, links: false }]);
  const known = facts.get(personId);
  const { filter } = run.sequence;
  return !filter || (known !== undefined && evaluate(filter, { facts: known, now: at, enteredAt: at, stepTimes: {} }));
}

async function tellEntry(
  tx: Tx,
  ws: string,
  personId: string,
  visitId: string,
  s: OpenSequence,
  at: number,
  code: 'entered' | 'not-entered' | 'held-out',
  data: object,
): Promise<void> {
  await tx.execute(
    sql`insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
        values (${ws}, ${personId}, ${newId()}, ${visitId}, ${s.id}, ${s.live_version}, ${at}, null, ${code}, ${JSON.stringify(data)}::jsonb)`,
  );
}

/** A fact about a person changed: their visits are looked at now, so that a goal or a stop takes hold before the next email. */
export async function wakeVisits(tx: Tx, ws: string, personId: string, at: number): Promise<void> {
  await tx.execute(
    sql`update visits set next_due_at = least(next_due_at, ${at}) where workspace_id = ${ws} and person_id = ${personId} and status = 'active'`,
  );
}

/** Ends what a person is inside of in one sequence, and takes back what is queued for it. */
export async function stopVisits(
  tx: Tx,
  ws: string,
  personId: string,
  sequence: string,
  at: number,
  by: string,
): Promise<void> {
  const ended = await rows<{ id: string; version: number; step: string | null }>(
    tx,
    sql`update visits v set status = 'done', step = null, due_at = 0, next_due_at = 0
        from (select id, step from visits where workspace_id = ${ws} and person_id = ${personId} and sequence_id::text = ${sequence} and status = 'active' for update) o
        where v.workspace_id = ${ws} and v.id = o.id returning v.id, v.version, o.step`,
  );
  for (const v of ended) {
    await cancelQueued(tx, sql`s.workspace_id = ${ws} and s.visit_id = ${v.id}`);
    await tx.execute(
      sql`insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
          values (${ws}, ${personId}, ${newId()}, ${v.id}, ${sequence}, ${v.version}, ${at}, ${v.step}, 'stopped-by', ${JSON.stringify({ by })}::jsonb)`,
    );
  }
}
