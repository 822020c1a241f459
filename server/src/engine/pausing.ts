import { sql } from 'drizzle-orm';
import type { ResumeCounts } from '@ascenso/contracts';
import { HOUR } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, firstRow, rows } from '../db/rows.ts';
import { cancelQueued } from './cancelling.ts';

// While a sequence is paused people still come in and stay where they are; nothing goes out. What this does to their
// moments is decided when it is resumed.

/** What resuming now would do: who is overdue, who of them is too late, who is inside. */
export async function resumeCounts(
  db: Executor,
  ws: string,
  id: string,
  now: number,
  lateHours: number,
): Promise<ResumeCounts> {
  const late = now - lateHours * HOUR;
  const row = await firstRow<Omit<ResumeCounts, 'pausedAt'> & { pausedAt: number | null }>(
    db,
    sql`select s.paused_at as "pausedAt",
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active') as inside,
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active' and v.due_at <= ${now}) as overdue,
          (select count(*) from visits v where v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.status = 'active' and v.due_at <= ${late}) as "tooLate",
          (select count(*) from sends q where q.workspace_id = s.workspace_id and q.sequence_id = s.id and q.visit_id is not null and q.status = 'queued') as queued,
          (select count(*) from sends q where q.workspace_id = s.workspace_id and q.sequence_id = s.id and q.visit_id is not null and q.status = 'queued' and q.due_at <= ${late}) as "queuedLate"
        from sequences s where s.workspace_id = ${ws} and s.id = ${id}`,
  );
  return row ?? { pausedAt: null, inside: 0, overdue: 0, tooLate: 0, queued: 0, queuedLate: 0 };
}

interface Touched {
  id: string;
  person_id: string;
  version: number;
  step: string | null;
}

async function tell(
  tx: Tx,
  ws: string,
  id: string,
  visits: readonly Touched[],
  now: number,
  code: string,
  data: object,
): Promise<void> {
  const list = visits.map((v) => ({ person: v.person_id, id: newId(), visit: v.id, version: v.version, step: v.step }));
  await tx.execute(sql`
    insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
    select ${ws}, n.person, n.id, n.visit, ${id}, n.version, ${now}, n.step, ${code}, ${JSON.stringify(data)}::jsonb
    from jsonb_to_recordset(${batch(list)}) as n(person uuid, id uuid, visit uuid, version int, step text)`);
}

/** Leaves out what should have gone out long ago: emails in the queue, and the next one of who is overdue. */
async function skipLate(tx: Tx, ws: string, id: string, late: number, now: number): Promise<void> {
  const cancelled = await cancelQueued(
    tx,
    sql`s.workspace_id = ${ws} and s.sequence_id = ${id} and s.due_at <= ${late}`,
  );
  await tell(
    tx,
    ws,
    id,
    cancelled.map((c) => ({ ...c, id: c.visit })),
    now,
    'email-too-late',
    {},
  );
  await tx.execute(
    sql`update visits set too_late = true where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' and due_at <= ${late}`,
  );
}

/**
 * Moves everybody on by as long as the pause was for them: nothing is overdue then, and who came in meanwhile begins now. Hours
 * are exact, days may shift by a clock change. Whom something has woken is still looked at first.
 */
async function shift(tx: Tx, ws: string, id: string, pausedAt: number, now: number): Promise<void> {
  const by = now - pausedAt;
  const moved = await rows<Touched>(
    tx,
    sql`update visits set due_at = due_at + ${now} - greatest(arrived_at, ${pausedAt}), arrived_at = arrived_at + ${now} - greatest(arrived_at, ${pausedAt}),
          next_due_at = case when next_due_at < due_at then next_due_at else due_at + ${now} - greatest(arrived_at, ${pausedAt}) end
        where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' returning id, person_id, version, step`,
  );
  await tx.execute(
    sql`update sends set due_at = due_at + ${by}, next_at = next_at + ${by} where workspace_id = ${ws} and sequence_id = ${id} and visit_id is not null and status = 'queued'`,
  );
  await tell(tx, ws, id, moved, now, 'shifted', { hours: by / HOUR });
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
  await tx.execute(
    sql`update sequences set status = 'live', paused_at = null where workspace_id = ${ws} and id = ${id}`,
  );
}

/** Puts a sequence away: who is inside leaves, and what is queued does not go out. Answers how many left. */
export async function archive(tx: Tx, ws: string, id: string, now: number): Promise<number> {
  await tx.execute(
    sql`update sequences set status = 'archived', paused_at = null where workspace_id = ${ws} and id = ${id}`,
  );
  await cancelQueued(tx, sql`s.workspace_id = ${ws} and s.sequence_id = ${id}`);
  const ended = await rows<Touched>(
    tx,
    sql`update visits v set status = 'done', step = null, due_at = 0, next_due_at = 0
        from (select id, step from visits where workspace_id = ${ws} and sequence_id = ${id} and status = 'active' for update) o
        where v.workspace_id = ${ws} and v.id = o.id returning v.id, v.person_id, v.version, o.step`,
  );
  await tell(tx, ws, id, ended, now, 'archived', {});
  return ended.length;
}
