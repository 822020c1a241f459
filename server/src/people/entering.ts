import { and, eq, sql } from 'drizzle-orm';
import {
  addDays,
  enter,
  evaluate,
  goalReached,
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
import { loadFacts } from '../db/facts.ts';
import { firstRow, rows } from '../db/rows.ts';
import { visits } from '../db/schema/index.ts';
import { loadVersion, lookAtVersion, type LoadedVersion } from '../db/versions.ts';
import { recallEmails } from './cancelling.ts';
import { writeTraces } from './traces.ts';
import { causeId, chainOf, toVisit, VISIT_COLUMNS, writeVisits, type VisitRow } from './visits.ts';

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

/** A sequence that starts another that starts another …: a chain of causes ends here (architecture, 19). */
const LONGEST_CHAIN = 8;

const OPEN = sql`s.status in ('live', 'paused') and s.live_version is not null`;

/** How the story tells of something that happened. */
export function toldBy(it: Happening): TraceEntry['data'] {
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
 * thing that happened; `chain` is how many sequences started each other before it.
 */
export async function happen(
  tx: Tx,
  ws: string,
  personId: string,
  it: Happening,
  id: string,
  when: When,
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
        when,
      );
}

/** A sequence that people can enter now, or undefined. */
export const openSequence = (db: Executor, ws: string, id: string): Promise<OpenSequence | undefined> =>
  firstRow<OpenSequence>(
    db,
    sql`select s.id, s.live_version from sequences s where s.workspace_id = ${ws} and s.id::text = ${id} and ${OPEN}`,
  );

/**
 * Starts one sequence for a person because another one says so. A chain of these ends after eight. Answers what came of
 * it: they are inside, its rules kept them out, or there is nothing to enter.
 */
export async function startFrom(
  tx: Tx,
  ws: string,
  personId: string,
  sequence: string,
  from: { visit: string; sequence: string; step: string; cause: string },
  when: When,
): Promise<'started' | 'rules' | 'not-live'> {
  const chain = chainOf(from.cause) + 1;
  const open = chain > LONGEST_CHAIN ? undefined : await openSequence(tx, ws, sequence);
  if (!open) return 'not-live';
  const id = causeId(`start:${from.visit}:${from.step}`, chain);
  const cause = { id, event: null, entry: {}, told: { by: from.sequence } };
  return (await enterSequence(tx, ws, personId, open, cause, when)) ? 'started' : 'rules';
}

interface Before {
  /** The passage under way, what started it, and when that happened. */
  active: string | null;
  active_event: string | null;
  active_at: number | null;
  /** Entry of the latest passage. */
  last: number | null;
  /** True where they were inside, in a passage that has ended since, when this happened. */
  was_inside: boolean;
}

/**
 * Makes the visit of one person in one sequence, under the person's lock, which decides who may enter again. It begins at
 * the moment of its cause, however late we heard. Answers whether they are inside now because of it.
 */
export async function enterSequence(
  tx: Tx,
  ws: string,
  personId: string,
  s: OpenSequence,
  cause: Cause,
  { at, now }: When,
): Promise<boolean> {
  const person = await firstRow<{ zone: string }>(
    tx,
    sql`select coalesce(p.zone, w.zone) as zone from people p join workspaces w on w.id = p.workspace_id where p.workspace_id = ${ws} and p.id = ${personId} for update of p`,
  );
  if (!person) return false;
  const version = await loadVersion(tx, ws, s.id, s.live_version);
  const { sequence } = version.run;
  const key = keyOf(cause.entry, sequence.entry.key);
  const before = await firstRow<Before>(
    tx,
    sql`select max(id::text) filter (where status = 'active') as active, max(entry_event) filter (where status = 'active') as active_event,
          max(entry_at) filter (where status = 'active') as active_at, max(entered_at) as last, coalesce(bool_or(entered_at <= ${at} and ended_at > ${at}), false) as was_inside
        from visits where workspace_id = ${ws} and sequence_id = ${s.id} and person_id = ${personId} and entry_key = ${key}`,
  );
  if (before?.active && !(await endedByGoal(tx, ws, personId, before.active, at))) {
    // The cart changed: whoever is inside goes on with the newest of the same kind, whichever was told first.
    if (cause.event !== null && cause.event === before.active_event && at >= (before.active_at ?? 0))
      await tx
        .update(visits)
        .set({ entry: cause.entry, entryAt: at })
        .where(and(eq(visits.workspaceId, ws), eq(visits.id, before.active)));
    return false;
  }
  // Told late: what came after it has begun a passage since, or it fell into one.
  if (before?.was_inside || (before?.last != null && before.last > at)) return false;
  if (before?.last != null && !mayAgain(sequence.entry, before.last, person.zone, at)) return false;
  const tell = (visit: string, code: 'entered' | 'not-entered' | 'held-out', data: TraceEntry['data']) =>
    writeTraces(tx, [
      { w: ws, person: personId, visit, seq: s.id, version: s.live_version, at, step: null, code, data },
    ]);
  if (sequence.filter && !(await passesFilter(tx, ws, personId, version, { at, now }))) {
    await tell(newId(), 'not-entered', {});
    return false;
  }
  const heldOut = shareOf(`${s.id}/holdout/${personId}`) * 100 < sequence.entry.holdout;
  const visit = enter(newId(), s.id, s.live_version, version.run, at, cause.entry);
  const made = await tx
    .insert(visits)
    .values({
      workspaceId: ws,
      id: visit.id,
      sequenceId: s.id,
      version: s.live_version,
      personId,
      causeId: cause.id,
      status: heldOut ? 'done' : visit.status,
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
    })
    .onConflictDoNothing()
    .returning({ id: visits.id });
  if (made.length === 0) return false;
  await tell(visit.id, heldOut ? 'held-out' : 'entered', cause.told);
  return !heldOut;
}

/**
 * Whether a passage under way had reached its goal before a moment: then it ends here, and what happened at that moment
 * can begin another. The engine would see it in its next round, but by then the new cart had gone into the old passage.
 */
async function endedByGoal(tx: Tx, ws: string, personId: string, visit: string, at: number): Promise<boolean> {
  const row = await firstRow<VisitRow>(
    tx,
    sql`select ${VISIT_COLUMNS} from visits v where v.workspace_id = ${ws} and v.id = ${visit}::uuid`,
  );
  if (!row) return false;
  // A passage that cannot be read is the engine's to set aside: a sender's events are taken all the same.
  const version = await lookAtVersion(tx, ws, row.sequence_id, row.version);
  if (!version?.run.sequence.goal) return false;
  const { run, needs } = version;
  const facts = (await loadFacts(tx, [{ workspace_id: ws, visit_id: row.id, person_id: personId, ...needs }])).get(
    row.id,
  );
  const standing = toVisit(row);
  const asking = { now: at - 1, enteredAt: standing.enteredAt, stepTimes: standing.stepTimes };
  if (!facts || !goalReached(run, { ...asking, facts }, standing.cause)) return false;
  await writeVisits(tx, [
    { w: ws, visit: { ...standing, status: 'done', step: null, dueAt: 0, endedAt: at, ending: 'goal' } },
  ]);
  await recallEmails(tx, sql`s.workspace_id = ${ws} and s.visit_id = ${row.id}`, { why: 'goal', at });
  await writeTraces(tx, [
    {
      w: ws,
      person: personId,
      visit: row.id,
      seq: row.sequence_id,
      version: row.version,
      at,
      step: row.step,
      code: 'goal-reached',
      data: {},
    },
  ]);
  return true;
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

/** Whether a person may enter, asked of what is known now. */
async function passesFilter(
  tx: Tx,
  ws: string,
  personId: string,
  { run, needs }: LoadedVersion,
  { at, now }: When,
): Promise<boolean> {
  const wanted = { workspace_id: ws, visit_id: personId, person_id: personId };
  const facts = await loadFacts(tx, [{ ...wanted, ...needs, emails: false, links: false }]);
  const known = facts.get(personId);
  const { filter } = run.sequence;
  return !filter || (known !== undefined && evaluate(filter, { facts: known, now, enteredAt: at, stepTimes: {} }));
}
