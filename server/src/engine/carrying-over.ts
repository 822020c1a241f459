import { sql } from 'drizzle-orm';
import { carryOver, isZone, type Sequence, type TraceEntry, type Visit } from '@ascenso/core';
import type { Inside } from '@ascenso/contracts';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { cancelQueued } from './cancelling.ts';
import { toVisit, type VisitRow } from './visit-row.ts';

/** People taken over in one statement. */
const BATCH = 2000;

interface InsideRow extends VisitRow {
  zone: string;
}

const left = (visit: Visit, version: number, now: number): { visit: Visit; trace: TraceEntry } => ({
  visit: { ...visit, step: null, status: 'done', dueAt: 0 },
  trace: { at: now, step: visit.step, code: 'left-by-publishing', data: { version } },
});

/**
 * What becomes of the people inside when a version is published, in the transaction of the publishing: they finish on the
 * version they are on, carry on in the new one, or leave. Queued sends keep their version; of those who leave they are
 * taken back. Answers how many were moved.
 */
export async function moveInside(
  tx: Tx,
  ws: string,
  sequence: string,
  to: { version: number; doc: Sequence },
  inside: Inside,
  now: number,
): Promise<number> {
  if (inside === 'finish') return 0;
  const docs = new Map(
    (
      await rows<{ number: number; doc: Sequence }>(
        tx,
        sql`select number, doc from versions where workspace_id = ${ws} and sequence_id = ${sequence}`,
      )
    ).map((v) => [v.number, v.doc]),
  );
  let total = 0;
  for (let after = ''; ;) {
    const some = await rows<InsideRow>(
      tx,
      sql`select v.id, v.sequence_id, v.person_id, v.version, v.step, v.entered_at, v.arrived_at, v.due_at, v.held, v.too_late, v.step_times, v.entry, coalesce(p.zone, w.zone) as zone
          from visits v join people p on p.workspace_id = v.workspace_id and p.id = v.person_id join workspaces w on w.id = v.workspace_id
          where v.workspace_id = ${ws} and v.sequence_id = ${sequence} and v.status = 'active' and v.version < ${to.version} and v.id::text > ${after}
          order by v.id::text limit ${BATCH} for update of v`,
    );
    if (some.length === 0) return total;
    const moved = some.map((r) => {
      const visit = toVisit(r);
      const from = docs.get(r.version);
      const zone = isZone(r.zone) ? r.zone : 'UTC';
      return {
        row: r,
        ...(inside === 'leave' || !from
          ? left(visit, to.version, now)
          : carryOver(visit, from, to.doc, to.version, zone, now)),
      };
    });
    await write(tx, ws, sequence, to.version, moved);
    total += moved.length;
    after = some.at(-1)?.id ?? '';
  }
}

async function write(
  tx: Tx,
  ws: string,
  sequence: string,
  version: number,
  moved: { row: InsideRow; visit: Visit; trace: TraceEntry }[],
): Promise<void> {
  const visits = moved.map(({ visit: v }) => ({
    id: v.id,
    version: v.version,
    status: v.status,
    step: v.step,
    arrived: v.arrivedAt,
    due: v.dueAt,
    held: v.held,
  }));
  // Whom something has woken is still looked at first: a goal reached a moment ago is not put off.
  await tx.execute(sql`
    update visits v set version = n.version, status = n.status, step = n.step, arrived_at = n.arrived, due_at = n.due, next_due_at = least(v.next_due_at, n.due), held = n.held
    from jsonb_to_recordset(${batch(visits)}) as n(id uuid, version int, status text, step text, arrived bigint, due bigint, held boolean)
    where v.workspace_id = ${ws} and v.id = n.id`);
  const gone = moved
    .filter(({ trace }) => trace.code === 'left-by-publishing')
    .map(({ visit }) => ({ visit: visit.id }));
  await cancelQueued(
    tx,
    sql`s.workspace_id = ${ws} and s.visit_id in (select visit from jsonb_to_recordset(${batch(gone)}) as n(visit uuid))`,
  );
  const traces = moved.map(({ row, trace }) => ({ person: row.person_id, id: newId(), visit: row.id, ...trace }));
  await tx.execute(sql`
    insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
    select ${ws}, n.person, n.id, n.visit, ${sequence}, ${version}, n.at, n.step, n.code, n.data
    from jsonb_to_recordset(${batch(traces)}) as n(person uuid, id uuid, visit uuid, at bigint, step text, code text, data jsonb)`);
}
