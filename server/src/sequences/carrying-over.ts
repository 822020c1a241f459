import { sql } from 'drizzle-orm';
import { carryOver, isZone, type Sequence, type TraceEntry, type Visit } from '@ascenso/core';
import type { Inside } from '@ascenso/contracts';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { recallEmails } from '../people/cancelling.ts';
import { writeTraces } from '../people/traces.ts';
import { placeVisits, toVisit, VISIT_COLUMNS, type VisitRow } from '../people/visits.ts';

/** People taken over in one statement. */
const BATCH = 2000;

interface InsideRow extends VisitRow {
  zone: string;
}

const left = (visit: Visit, version: number, now: number): { visit: Visit; trace: TraceEntry } => ({
  visit: { ...visit, step: null, status: 'done', dueAt: 0, endedAt: now },
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
      sql`select ${VISIT_COLUMNS}, coalesce(p.zone, w.zone) as zone
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
    await write(tx, ws, sequence, to.version, moved, now);
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
  now: number,
): Promise<void> {
  await placeVisits(
    tx,
    moved.map(({ visit }) => ({ w: ws, visit })),
  );
  const gone = moved
    .filter(({ trace }) => trace.code === 'left-by-publishing')
    .map(({ visit }) => ({ visit: visit.id }));
  if (gone.length > 0)
    await recallEmails(
      tx,
      sql`s.workspace_id = ${ws} and s.visit_id in (select visit from jsonb_to_recordset(${batch(gone)}) as n(visit uuid))`,
      { why: 'publishing', at: now },
    );
  await writeTraces(
    tx,
    moved.map(({ row, trace }) => ({ w: ws, person: row.person_id, visit: row.id, seq: sequence, version, ...trace })),
  );
}
