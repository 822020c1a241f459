import { sql } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';

/** An email that a process has taken in hand. */
export interface LeasedRow {
  workspace_id: string;
  id: string;
  visit_id: string | null;
  sequence_id: string;
  version: number;
  step: string;
  person_id: string;
  program_hash: string;
  due_at: number;
  attempts: number;
  to: string | null;
  /** Packed. */
  values: Buffer | null;
  revoked: string | null;
  own_change: boolean;
  entry: Record<string, unknown> | null;
  visit_status: 'active' | 'done' | null;
  entered_at: number | null;
  step_times: Record<string, number> | null;
  cause_id: string | null;
  sequence_status: string | null;
  list_name: string | null;
  list_id: string | null;
  currency: string;
}

/** Sends that may be taken at `now`: `s` is due, nobody else's, and neither its visit nor its sequence holds it back. */
const takeable = (now: number, system: number) => sql`
  s.status in ('queued', 'leased') and s.next_at <= ${now} and (s.lease_until is null or s.lease_until < ${system})
  and not exists (select 1 from visits v where v.workspace_id = s.workspace_id and v.id = s.visit_id and v.status = 'active' and v.wake_at <= ${now})
  and not exists (select 1 from sequences q where q.workspace_id = s.workspace_id and q.id = s.sequence_id and q.status = 'paused' and s.visit_id is not null)`;

/**
 * Leases emails that are due, every workspace its share, and answers them in the order in which they are due. `until` is the
 * end of the lease on the system clock; one that lies in the past takes no lease at all, which only the test that proves its
 * need does.
 */
export async function leaseDue(tx: Tx, now: number, size: number, until: number): Promise<LeasedRow[]> {
  const system = Date.now();
  const keep = until > system;
  return rows<LeasedRow>(
    tx,
    sql`with ready as (
          select w.id, count(*) over () as n from workspaces w
          cross join lateral (select 1 from sends s where s.workspace_id = w.id and s.status in ('queued', 'leased') and s.next_at <= ${now} limit 1) one),
        due as (
          select s.workspace_id, s.id from ready r
          cross join lateral (
            select s.workspace_id, s.id from sends s where s.workspace_id = r.id and ${takeable(now, system)}
            order by s.next_at, s.id limit ceil(${size}::numeric / r.n)::int for update of s skip locked) s),
        taken as (
        update sends s set status = ${keep ? 'leased' : 'queued'}, lease_until = ${keep ? until : null}::bigint
        from due
        left join sends d on d.workspace_id = due.workspace_id and d.id = due.id
        left join visits v on v.workspace_id = d.workspace_id and v.id = d.visit_id
        left join sequences q on q.workspace_id = d.workspace_id and q.id = d.sequence_id
        left join versions n on n.workspace_id = d.workspace_id and n.sequence_id = d.sequence_id and n.number = d.version
        left join workspaces w on w.id = d.workspace_id
        left join lists l on l.workspace_id = d.workspace_id and l.id::text = n.doc->>'list'
        where s.workspace_id = due.workspace_id and s.id = due.id
        returning s.workspace_id, s.id, s.visit_id, s.sequence_id, s.version, s.step, s.person_id, s.program_hash, s.due_at, s.attempts, s.own_change, s.revoked, s."to", s.values,
          v.entry, v.status as visit_status, v.entered_at, v.step_times, v.cause_id, q.status as sequence_status, l.name as list_name, l.id as list_id, w.currency, s.next_at)
        select * from taken order by next_at, id`,
  );
}

const keysOf = (held: readonly LeasedRow[]) => batch(held.map((r) => ({ w: r.workspace_id, id: r.id })));

/** Makes leases last until a later moment of the system clock. */
export async function renewLeases(tx: Pick<Tx, 'execute'>, held: readonly LeasedRow[], until: number): Promise<void> {
  await tx.execute(
    sql`update sends s set lease_until = ${until} from jsonb_to_recordset(${keysOf(held)}) as n(w uuid, id uuid) where s.workspace_id = n.w and s.id = n.id and s.status = 'leased'`,
  );
}

/** Puts an email off until a moment of the business clock: nobody has tried it. */
export async function putOff(tx: Pick<Tx, 'execute'>, row: LeasedRow, nextAt: number): Promise<void> {
  await tx.execute(
    sql`update sends set status = 'queued', lease_until = null, next_at = ${nextAt} where workspace_id = ${row.workspace_id} and id = ${row.id} and status in ('leased', 'queued')`,
  );
}

/** Gives back what has not been begun. */
export async function giveBack(tx: Pick<Tx, 'execute'>, held: readonly LeasedRow[]): Promise<void> {
  if (held.length === 0) return;
  await tx.execute(
    sql`update sends s set status = 'queued', lease_until = null from jsonb_to_recordset(${keysOf(held)}) as n(w uuid, id uuid) where s.workspace_id = n.w and s.id = n.id and s.status = 'leased'`,
  );
}
