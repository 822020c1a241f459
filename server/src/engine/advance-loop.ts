import { sql } from 'drizzle-orm';
import { advance, type Effect } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Connection, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { again } from '../db/transact.ts';
import { cancelQueued } from './cancelling.ts';
import { writeEffects, type ClaimedRow, type Moved } from './effects.ts';
import { loadFacts } from './facts.ts';
import { isCapped, MailLedger, rulesOf, type Rules } from './mailing.ts';
import { OfferLedger } from './offers.ts';
import { toVisit } from './visit-row.ts';
import { loadVersion, type LoadedVersion } from './versions.ts';

/** Visits advanced in one transaction: measured to be where the cost per visit levels out. */
export const ADVANCE_BATCH = 500;

/** Effects that change what is known of the person. */
const CHANGES: ReadonlySet<Effect['kind']> = new Set(['tag', 'set', 'points', 'list']);

/**
 * Claims one batch of due visits, advances them and writes visits, outbox, effects and trace, all in one transaction.
 * Any number of processes may run it against one database. Answers how many it moved.
 */
export async function advanceRound(connection: Connection, now: number, size = ADVANCE_BATCH): Promise<number> {
  const moved = await connection.db.transaction(async (tx) => {
    const due = await rows<ClaimedRow>(
      tx,
      sql`select v.workspace_id, v.id, v.sequence_id, v.version, v.person_id, v.cause_id, v.step, v.entered_at, v.arrived_at, v.due_at, v.held, v.too_late, v.step_times, v.entry, v.awaits
          from visits v
          where v.status = 'active' and v.next_due_at <= ${now}
            and exists (select 1 from sequences s where s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.status <> 'paused')
          order by v.next_due_at, v.id limit ${size} for update of v skip locked`,
    );
    if (due.length === 0) return [];
    const versionOf = await versionsOf(tx, due);
    const rules = await rulesOf(tx, [...new Set(due.map((r) => r.workspace_id))]);
    const claimed = await withTheirPeople(tx, due, (r) => {
      const version = versionOf(r);
      return isCapped(r, version, rules) || version.needs.changes || version.makes.length > 0;
    });
    if (claimed.length === 0) return [];
    const moved = await moveAll(tx, claimed, versionOf, rules, now);
    await writeMoved(tx, moved);
    await writeEffects(tx, moved, now);
    return moved;
  });
  await wakeOthers(connection, moved, now);
  return moved.length;
}

/**
 * What one sequence changed about a person is news to their visits in others: a goal or an awaited answer may be there.
 * After the commit, since another process may hold those visits; should it die in between, they see it when next due.
 */
async function wakeOthers(connection: Connection, moved: readonly Moved[], now: number): Promise<void> {
  const changed = moved.filter(({ result }) => result.effects.some((e) => CHANGES.has(e.kind)));
  if (changed.length === 0) return;
  const list = changed.map(({ row }) => ({ w: row.workspace_id, visit: row.id, person: row.person_id }));
  const wake = sql`
    update visits v set next_due_at = ${now} from (
      select o.workspace_id, o.id from jsonb_to_recordset(${batch(list)}) as n(w uuid, visit uuid, person uuid)
      join visits o on o.workspace_id = n.w and o.person_id = n.person and o.id <> n.visit
      where o.status = 'active' and o.next_due_at > ${now} order by o.id for update of o) woken
    where v.workspace_id = woken.workspace_id and v.id = woken.id`;
  await again(() => connection.db.execute(wake));
}

/**
 * Locks the people of those visits that `touch` them (or others of their visits), and leaves out visits whose person is
 * held elsewhere: they are due still. Everybody else locks a person before their visits, so whoever waited for a person
 * here, with visits in hand, would wait for each other. Under the lock nobody is given an offer, or the last email of a
 * day, twice.
 */
async function withTheirPeople(tx: Tx, due: ClaimedRow[], touch: (row: ClaimedRow) => boolean): Promise<ClaimedRow[]> {
  const touching = new Set(due.filter(touch));
  if (touching.size === 0) return due;
  const keys = batch([...touching].map((r) => ({ w: r.workspace_id, p: r.person_id })));
  const held = await rows<{ id: string }>(
    tx,
    sql`select id from people where (workspace_id, id) in (select w, p from jsonb_to_recordset(${keys}) as k(w uuid, p uuid)) for update skip locked`,
  );
  const people = new Set(held.map((p) => p.id));
  const missing = [...touching].filter((r) => !people.has(r.person_id));
  if (missing.length === 0) return due;
  // Whoever was deleted is locked by nobody: their visit goes on, and ends.
  const others = await rows<{ id: string }>(
    tx,
    sql`select id from people where (workspace_id, id) in (select w, p from jsonb_to_recordset(${batch(missing.map((r) => ({ w: r.workspace_id, p: r.person_id })))}) as k(w uuid, p uuid))`,
  );
  const elsewhere = new Set(others.map((p) => p.id));
  return due.filter((r) => !touching.has(r) || people.has(r.person_id) || !elsewhere.has(r.person_id));
}

type VersionOf = (row: ClaimedRow) => LoadedVersion;

async function versionsOf(tx: Tx, due: readonly ClaimedRow[]): Promise<VersionOf> {
  const versions = new Map<string, LoadedVersion>();
  for (const r of due) {
    const key = `${r.sequence_id}/${r.version}`;
    if (!versions.has(key)) versions.set(key, await loadVersion(tx, r.workspace_id, r.sequence_id, r.version));
  }
  return (r) => versions.get(`${r.sequence_id}/${r.version}`) as LoadedVersion;
}

async function moveAll(
  tx: Tx,
  claimed: readonly ClaimedRow[],
  versionOf: VersionOf,
  rules: Map<string, Rules>,
  now: number,
): Promise<Moved[]> {
  const facts = await loadFacts(
    tx,
    claimed.map((r) => ({
      workspace_id: r.workspace_id,
      visit_id: r.id,
      person_id: r.person_id,
      ...versionOf(r).needs,
    })),
  );
  const ledger = await MailLedger.open(tx, claimed, versionOf, rules);
  const offers = await OfferLedger.open(tx, claimed, facts, versionOf);
  const moved = claimed.map((row): Moved => {
    const version = versionOf(row);
    const known = facts.get(row.id);
    const visit = toVisit(row);
    // The person was deleted: the visit ends without a word.
    if (!known)
      return {
        row,
        version,
        result: { visit: { ...visit, status: 'done', step: null, dueAt: 0 }, effects: [], trace: [] },
      };
    const result = advance(visit, version.run, offers.with(ledger.with(known, row), row), now);
    ledger.note(row, known, version, result);
    offers.note(row, result);
    return { row, version, result };
  });
  await ledger.write(tx);
  await offers.write(tx);
  return moved;
}

async function writeMoved(tx: Tx, moved: readonly Moved[]): Promise<void> {
  const visitRows = moved.map(({ row, result: { visit } }) => ({
    w: row.workspace_id,
    id: visit.id,
    status: visit.status,
    step: visit.step,
    arrived: visit.arrivedAt,
    due: visit.dueAt,
    held: visit.held,
    late: visit.tooLate,
    awaits: visit.awaits ?? null,
    times: visit.stepTimes,
  }));
  const sendRows = moved.flatMap(({ row, version, result }) =>
    result.effects.flatMap((e) =>
      e.kind === 'send'
        ? [
            {
              w: row.workspace_id,
              id: newId(),
              visit: row.id,
              seq: row.sequence_id,
              version: row.version,
              step: e.step,
              person: row.person_id,
              hash: version.programs[e.step],
              due: e.dueAt,
              own: result.effects.some((k) => CHANGES.has(k.kind)),
            },
          ]
        : [],
    ),
  );
  await tx.execute(sql`
    with u as (
      update visits v set status = n.status, step = n.step, arrived_at = n.arrived, due_at = n.due, next_due_at = n.due, held = n.held, too_late = n.late, awaits = n.awaits, step_times = n.times
      from jsonb_to_recordset(${batch(visitRows)}) as n(w uuid, id uuid, status text, step text, arrived bigint, due bigint, held boolean, late boolean, awaits uuid, times jsonb)
      where v.workspace_id = n.w and v.id = n.id)
    insert into sends (workspace_id, id, visit_id, sequence_id, version, step, person_id, program_hash, status, due_at, next_at, own_change)
    select n.w, n.id, n.visit, n.seq, n.version, n.step, n.person, n.hash, 'queued', n.due, n.due, n.own
    from jsonb_to_recordset(${batch(sendRows)}) as n(w uuid, id uuid, visit uuid, seq uuid, version int, step text, person uuid, hash text, due bigint, own boolean)
    on conflict do nothing`);
  await cancelEnded(tx, moved);
  const traceRows = moved.flatMap(({ row, result }) =>
    result.trace.map((t) => ({
      w: row.workspace_id,
      person: row.person_id,
      id: newId(),
      visit: row.id,
      seq: row.sequence_id,
      version: row.version,
      ...t,
    })),
  );
  if (traceRows.length > 0)
    await tx.execute(sql`
      insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
      select n.w, n.person, n.id, n.visit, n.seq, n.version, n.at, n.step, n.code, n.data
      from jsonb_to_recordset(${batch(traceRows)}) as n(w uuid, person uuid, id uuid, visit uuid, seq uuid, version int, at bigint, step text, code text, data jsonb)`);
}

/**
 * A goal or a stop also takes back what is queued and not yet under way. What the sequence itself changed right after an
 * email may have been the goal: whether that email still goes is for the send loop, which knows what is newer.
 */
async function cancelEnded(tx: Tx, moved: readonly Moved[]): Promise<void> {
  const ended = moved.filter(({ result }) =>
    result.trace.some((t) => t.code === 'goal-reached' || t.code === 'mail-stopped'),
  );
  if (ended.length === 0) return;
  const list = batch(ended.map(({ row }) => ({ w: row.workspace_id, visit: row.id })));
  await cancelQueued(
    tx,
    sql`(s.workspace_id, s.visit_id) in (select w, visit from jsonb_to_recordset(${list}) as n(w uuid, visit uuid)) and not s.own_change`,
  );
}
