import { and, eq, sql } from 'drizzle-orm';
import type { Visit } from '@ascenso/core';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { sends, visits } from '../db/schema/index.ts';

/** A visit under way, as the table keeps it. */
export interface VisitRow {
  id: string;
  sequence_id: string;
  version: number;
  person_id: string;
  cause_id: string;
  step: string | null;
  entered_at: number;
  arrived_at: number;
  due_at: number;
  held: boolean;
  too_late: boolean;
  step_times: Record<string, number>;
  entry: Record<string, unknown>;
  awaits?: string | null;
}

/** The columns of a VisitRow, of `visits v`. */
export const VISIT_COLUMNS = sql`v.id, v.sequence_id, v.version, v.person_id, v.cause_id, v.step, v.entered_at, v.arrived_at, v.due_at, v.held, v.too_late, v.step_times, v.entry, v.awaits`;

/** How long the chain is that a visit's cause stands at the end of; 0 for what came from outside. */
export const chainOf = (causeId: string): number => Number(/#(\d+)$/.exec(causeId)?.[1] ?? 0);
export const causeId = (id: string, chain: number): string => (chain > 0 ? `${id}#${chain}` : id);

export const toVisit = (r: VisitRow): Visit => ({
  id: r.id,
  sequence: r.sequence_id,
  version: r.version,
  step: r.step,
  status: 'active',
  enteredAt: r.entered_at,
  arrivedAt: r.arrived_at,
  dueAt: r.due_at,
  held: r.held,
  tooLate: r.too_late,
  stepTimes: r.step_times,
  entry: r.entry,
  cause: r.cause_id.replace(/#\d+$/, ''),
  ...(r.awaits ? { awaits: r.awaits } : {}),
});

/**
 * A fact about a person changed: their visits are looked at now, so that a goal or a stop takes hold before the next
 * email. `at` is the business clock, epoch ms.
 */
export async function wakeVisits(tx: Executor, ws: string, personId: string, at: number): Promise<void> {
  await tx.execute(
    sql`update visits set wake_at = least(wake_at, ${at}) where workspace_id = ${ws} and person_id = ${personId} and status = 'active'`,
  );
}

/** Wakes one visit. */
export async function wakeVisit(tx: Executor, ws: string, visit: string, at: number): Promise<void> {
  await tx.execute(
    sql`update visits set wake_at = least(wake_at, ${at}) where workspace_id = ${ws} and id = ${visit} and status = 'active'`,
  );
}

/** Leaves a visit where it stands until a moment: it cannot be handled now. Whether its emails may go is for it to say. */
export async function postponeVisit(tx: Tx, ws: string, visit: string, until: number): Promise<void> {
  await tx
    .update(visits)
    .set({ wakeAt: until })
    .where(and(eq(visits.workspaceId, ws), eq(visits.id, visit)));
  await tx
    .update(sends)
    .set({ nextAt: sql`greatest(${sends.nextAt}, ${until})` })
    .where(and(eq(sends.workspaceId, ws), eq(sends.visitId, visit), eq(sends.status, 'queued')));
}

/** Whoever waits for codes of an offer is due now: there are some. */
export async function wakeAwaiting(db: Executor, ws: string, offer: string, at: number): Promise<void> {
  await db.execute(
    sql`update visits set due_at = least(due_at, ${at}), wake_at = least(wake_at, ${at}) where workspace_id = ${ws} and awaits = ${offer} and status = 'active'`,
  );
}

/** What changed about a person by one of their visits is news to the others. In order of ids, as everybody locks them. */
export async function wakeOthers(
  db: Executor,
  changed: readonly { w: string; visit: string; person: string }[],
  now: number,
): Promise<void> {
  await db.execute(sql`
    update visits v set wake_at = ${now} from (
      select o.workspace_id, o.id from jsonb_to_recordset(${batch(changed)}) as n(w uuid, visit uuid, person uuid)
      join visits o on o.workspace_id = n.w and o.person_id = n.person and o.id <> n.visit
      where o.status = 'active' and o.wake_at > ${now} order by o.id for update of o) woken
    where v.workspace_id = woken.workspace_id and v.id = woken.id`);
}

export interface EndedVisit {
  id: string;
  person_id: string;
  version: number;
  /** Where it stood. */
  step: string | null;
}

/** Ends visits that are under way, wherever they stand, at `now`. Of one person, or of everybody in a sequence. */
export function endVisits(
  tx: Tx,
  ws: string,
  which: { sequence?: string; person?: string },
  now: number,
): Promise<EndedVisit[]> {
  const whose = which.person === undefined ? sql`` : sql`and person_id = ${which.person}`;
  const where = which.sequence === undefined ? sql`` : sql`and sequence_id::text = ${which.sequence}`;
  return rows<EndedVisit>(
    tx,
    sql`update visits v set status = 'done', step = null, due_at = 0, wake_at = 0, ended_at = ${now}, ending = 'left'
        from (select id, step from visits where workspace_id = ${ws} ${where} ${whose} and status = 'active' for update) o
        where v.workspace_id = ${ws} and v.id = o.id returning v.id, v.person_id, v.version, o.step`,
  );
}

/** A visit moved on, with what is written of it. */
export interface MovedVisit {
  w: string;
  visit: Visit;
}

const rowOf = ({ w, visit: v }: MovedVisit) => ({
  w,
  id: v.id,
  version: v.version,
  status: v.status,
  step: v.step,
  arrived: v.arrivedAt,
  due: v.dueAt,
  held: v.held,
  late: v.tooLate,
  awaits: v.awaits ?? null,
  times: v.stepTimes,
  ended: v.endedAt ?? null,
  ending: v.ending ?? null,
});

/** Writes visits as they are after a round, in one statement. */
export async function writeVisits(tx: Tx, moved: readonly MovedVisit[]): Promise<void> {
  if (moved.length === 0) return;
  await tx.execute(sql`
    update visits v set version = n.version, status = n.status, step = n.step, arrived_at = n.arrived, due_at = n.due, wake_at = n.due, held = n.held, too_late = n.late, awaits = n.awaits, step_times = n.times, ended_at = n.ended, ending = n.ending
    from jsonb_to_recordset(${batch(moved.map(rowOf))}) as n(w uuid, id uuid, version int, status text, step text, arrived bigint, due bigint, held boolean, late boolean, awaits uuid, times jsonb, ended bigint, ending text)
    where v.workspace_id = n.w and v.id = n.id`);
}

/**
 * Writes visits that were moved from outside (publishing, resuming). Whom something has woken is still looked at first: a
 * goal reached a moment ago is not put off.
 */
export async function placeVisits(tx: Tx, moved: readonly MovedVisit[]): Promise<void> {
  await tx.execute(sql`
    update visits v set version = n.version, status = n.status, step = n.step, arrived_at = n.arrived, due_at = n.due, held = n.held,
      wake_at = case when v.wake_at < v.due_at then least(v.wake_at, n.due) else n.due end, ended_at = n.ended, ending = n.ending
    from jsonb_to_recordset(${batch(moved.map(rowOf))}) as n(w uuid, id uuid, version int, status text, step text, arrived bigint, due bigint, held boolean, ended bigint, ending text)
    where v.workspace_id = n.w and v.id = n.id`);
}
