import { sql } from 'drizzle-orm';
import type { TraceEntry } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor } from '../db/connect.ts';
import { batch } from '../db/rows.ts';

/** One reason of a person's story: whose, in which passage, and what was decided. */
export interface Reason extends TraceEntry {
  w: string;
  person: string;
  visit: string;
  seq: string;
  version: number;
}

/** Writes reasons into people's stories, in the order in which they are given: ids are ordered by when they are made. */
export async function writeTraces(db: Executor, reasons: readonly Reason[]): Promise<void> {
  if (reasons.length === 0) return;
  await db.execute(sql`
    insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, step, code, data)
    select n.w, n.person, n.id, n.visit, n.seq, n.version, n.at, n.step, n.code, n.data
    from jsonb_to_recordset(${batch(reasons.map((r) => ({ ...r, id: newId() })))}) as n(w uuid, person uuid, id uuid, visit uuid, seq uuid, version int, at bigint, step text, code text, data jsonb)`);
}
