import { and, eq, sql } from 'drizzle-orm';
import type { OverdueEmail, ResumeCounts } from '@ascenso/contracts';
import { HOUR, isZone, LATE, MINUTE, nextEmailStep, nextInWindow, resumedByShift, zoneOf } from '@ascenso/core';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { sequences } from '../db/schema/index.ts';
import { NEVER, notBegun } from '../db/leaving.ts';
import { lookAtVersion } from '../db/versions.ts';
import { recallEmails } from '../people/cancelling.ts';
import { writeTraces, type Reason } from '../people/traces.ts';
import { endVisits, placeVisits, toVisit, VISIT_COLUMNS, type EndedVisit, type VisitRow } from '../people/visits.ts';

// While a sequence is paused people still come in and stay where they are; nothing goes out. What this does to their
// moments is decided when it is resumed.

/** People moved in one statement. */
const BATCH = 2000;

export interface LockedSequence {
  status: 'draft' | 'live' | 'paused' | 'archived';
  liveVersion: number | null;
  pausedAt: number | null;
}

const one = (ws: string, id: string) => and(eq(sequences.workspaceId, ws), eq(sequences.id, id));

/** A sequence, locked until the transaction ends; undefined where there is none. */
export async function lockSequence(tx: Tx, ws: string, id: string): Promise<LockedSequence | undefined> {
  const [s] = await tx
    .select({ status: sequences.status, liveVersion: sequences.liveVersion, pausedAt: sequences.pausedAt })
    .from(sequences)
    .where(one(ws, id))
    .for('update');
  return s;
}

/** Nothing goes out from now on. One that is paused stays paused since it was. */
export async function pause(tx: Tx, ws: string, id: string, now: number): Promise<void> {
  await tx
    .update(sequences)
    .set({ status: 'paused', pausedAt: sql`coalesce(${sequences.pausedAt}, ${now})` })
    .where(one(ws, id));
  // Held within its minutes of grace: nobody is taken in before it is let go again.
  await tx.execute(
    sql`update sweeps w set next_at = ${NEVER} where w.workspace_id = ${ws} and w.sequence_id = ${id} and ${notBegun} and w.next_at > ${now}`,
  );
}

/** Out of the archive it comes paused, or as the draft that it was: nothing starts by itself. */
export async function takeOut(tx: Tx, ws: string, id: string, s: LockedSequence, now: number): Promise<void> {
  await tx
    .update(sequences)
    .set({ status: s.liveVersion === null ? 'draft' : 'paused', pausedAt: now })
    .where(one(ws, id));
}

/** What resuming now would do: who is overdue, who of them is too late, who is inside, and with which emails. */
export async function resumeCounts(
  db: Executor,
  ws: string,
  id: string,
  now: number,
  lateHours: number,
): Promise<ResumeCounts> {
  const late = now - lateHours * HOUR;
  const row = await firstRow<Omit<ResumeCounts, 'emails'>>(
    db,
    sql`select s.paused_at as "pausedAt", s.halted,
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active') as inside,
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active' and v.due_at <= ${now}) as overdue,
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active' and v.due_at <= ${late}) as "tooLate",
          (select count(*) from sends q where q.workspace_id = s.workspace_id and q.sequence_id = s.id and q.visit_id is not null and q.status = 'queued') as queued,
          (select count(*) from sends q where q.workspace_id = s.workspace_id and q.sequence_id = s.id and q.visit_id is not null and q.status = 'queued' and q.due_at <= ${late}) as "queuedLate"
        from sequences s where s.workspace_id = ${ws} and s.id = ${id}`,
  );
  const counts = row ?? { pausedAt: null, halted: null, inside: 0, overdue: 0, tooLate: 0, queued: 0, queuedLate: 0 };
  return { ...counts, emails: await overdueEmails(db, ws, id, now, late) };
}

/** The emails that are overdue: in the queue, or next for somebody whose moment has passed, the oldest first. */
async function overdueEmails(db: Executor, ws: string, id: string, now: number, late: number): Promise<OverdueEmail[]> {
  const found = await rows<{ version: number; step: string; n: number; late: number; oldest: number; queued: boolean }>(
    db,
    sql`select version, step, count(*) as n, count(*) filter (where due_at <= ${late}) as late, min(due_at) as oldest, false as queued from visits
        where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' and due_at <= ${now} and step is not null group by 1, 2
        union all select version, step, count(*), count(*) filter (where due_at <= ${late}), min(due_at), true from sends
        where workspace_id = ${ws} and sequence_id = ${id} and visit_id is not null and status = 'queued' group by 1, 2`,
  );
  const emails = new Map<string, OverdueEmail>();
  for (const f of found) {
    const version = await lookAtVersion(db, ws, id, f.version);
    const email = version && nextEmailStep(version.run, f.step);
    const key = email?.id ?? '';
    const known = emails.get(key) ?? {
      step: email?.id ?? null,
      name: email?.name ?? '',
      people: 0,
      late: 0,
      oldest: f.oldest,
    };
    emails.set(key, {
      ...known,
      people: known.people + f.n,
      late: known.late + f.late,
      oldest: Math.min(known.oldest, f.oldest),
    });
  }
  return [...emails.values()].sort((a, b) => a.oldest - b.oldest);
}

const reasons = (
  ws: string,
  seq: string,
  visits: readonly EndedVisit[],
  at: number,
  code: Reason['code'],
  data: Reason['data'],
): Reason[] =>
  visits.map((v) => ({
    w: ws,
    person: v.person_id,
    visit: v.id,
    seq,
    version: v.version,
    at,
    step: v.step,
    code,
    data,
  }));

/** Leaves out what should have gone out long ago: emails in the queue, and the next one of who is overdue. */
async function skipLate(tx: Tx, ws: string, id: string, late: number, now: number): Promise<void> {
  await recallEmails(tx, sql`s.workspace_id = ${ws} and s.sequence_id = ${id} and s.due_at <= ${late}`, {
    why: 'late',
    at: now,
    code: 'email-too-late',
  });
  await tx.execute(
    sql`update visits set too_late = true where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' and due_at <= ${late}`,
  );
}

/**
 * A pause moves the schedule, unlike lag: whoever's time came meanwhile goes on from here, and the waits behind that begin
 * after the pause. By up to an hour it stays what was planned, as ever.
 */
const goOnFromHere = (tx: Tx, ws: string, id: string, now: number) =>
  tx.execute(
    sql`update visits set due_at = ${now}, held = false where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' and due_at < ${now - LATE}`,
  );

/** Moves everybody on by as long as the pause was for them; what the calendar decides is asked anew. */
async function shift(tx: Tx, ws: string, id: string, pausedAt: number, now: number): Promise<void> {
  for (let after = ''; ;) {
    const some = await rows<VisitRow>(
      tx,
      sql`select ${VISIT_COLUMNS} from visits v where v.workspace_id = ${ws} and v.sequence_id = ${id} and v.status = 'active' and v.id::text > ${after}
          order by v.id::text limit ${BATCH} for update of v`,
    );
    if (some.length === 0) return;
    const moved = [];
    for (const row of some) {
      const version = await lookAtVersion(tx, ws, id, row.version);
      if (version) moved.push({ w: ws, visit: resumedByShift(toVisit(row), version.run, pausedAt, now) });
    }
    await placeVisits(tx, moved);
    await writeTraces(tx, reasons(ws, id, some, now, 'shifted', { hours: (now - pausedAt) / HOUR }));
    after = some.at(-1)?.id ?? '';
  }
}

/**
 * Emails that were decided before the pause go out when it ends, each in its window: that was asked for a moment that has
 * passed. One that has been filled keeps its date, so that a second try has the same bytes.
 */
async function openQueue(tx: Tx, ws: string, id: string, now: number): Promise<void> {
  const queued = await rows<{ id: string; version: number; step: string; zone: string }>(
    tx,
    sql`select s.id, s.version, s.step, coalesce(p.zone, w.zone) as zone from sends s
          join people p on p.workspace_id = s.workspace_id and p.id = s.person_id join workspaces w on w.id = s.workspace_id
        where s.workspace_id = ${ws} and s.sequence_id = ${id} and s.visit_id is not null and s.status = 'queued' and s.next_at <= ${now}`,
  );
  const opens = [];
  for (const q of queued) {
    const step = (await lookAtVersion(tx, ws, id, q.version))?.run.steps.get(q.step)?.step;
    const window = step?.kind === 'email' ? step.window : null;
    const zone = zoneOf(window?.zone ?? (isZone(q.zone) ? q.zone : 'UTC'));
    opens.push({ id: q.id, at: window ? nextInWindow(zone, window, now) : now });
  }
  if (opens.length > 0)
    await tx.execute(
      sql`update sends s set next_at = n."at", due_at = case when s."values" is null then n."at" else s.due_at end from jsonb_to_recordset(${batch(opens)}) as n(id uuid, "at" bigint) where s.workspace_id = ${ws} and s.id = n.id`,
    );
}

/** Lets a paused sequence run again, in the caller's transaction and under the sequence's lock. */
export async function resume(
  tx: Tx,
  ws: string,
  id: string,
  how: { overdue: 'send' | 'skip' | 'shift'; lateHours: number },
  pausedAt: number,
  now: number,
): Promise<void> {
  if (how.overdue === 'skip') await skipLate(tx, ws, id, now - how.lateHours * HOUR, now);
  if (how.overdue === 'shift') await shift(tx, ws, id, pausedAt, now);
  else await goOnFromHere(tx, ws, id, now);
  await openQueue(tx, ws, id, now);
  await tx.execute(
    sql`update sweeps w set next_at = ${now} + (select grace_minutes from workspaces where id = ${ws}) * ${MINUTE}::bigint
        where w.workspace_id = ${ws} and w.sequence_id = ${id} and ${notBegun} and w.next_at = ${NEVER}`,
  );
  const haltFrom = sql`case when ${sequences.halted} is null then ${sequences.haltFrom} else ${now} end`;
  await tx.update(sequences).set({ status: 'live', pausedAt: null, halted: null, haltFrom }).where(one(ws, id));
}

/** Puts a sequence away: who is inside leaves, and what is queued does not go out. Answers how many left. */
export async function archive(tx: Tx, ws: string, id: string, now: number): Promise<number> {
  await tx.update(sequences).set({ status: 'archived', pausedAt: null, halted: null }).where(one(ws, id));
  await recallEmails(tx, sql`s.workspace_id = ${ws} and s.sequence_id = ${id}`, { why: 'archived', at: now });
  const ended = await endVisits(tx, ws, { sequence: id }, now);
  await writeTraces(tx, reasons(ws, id, ended, now, 'archived', {}));
  return ended.length;
}
