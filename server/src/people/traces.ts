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

interface Row {
  w: string;
  person: string;
  id: string;
  visit: string;
  seq: string;
  version: number;
  at: number;
  reasons: TraceEntry[];
}

/**
 * Writes reasons into people's stories, one row for each visit: half the cost of a row for each. In the order in which they
 * are given, and ids are ordered by when they are made.
 */
export async function writeTraces(db: Executor, reasons: readonly Reason[]): Promise<void> {
  if (reasons.length === 0) return;
  const visits = new Map<string, Row>();
  for (const { w, person, visit, seq, version, ...reason } of reasons) {
    const known = visits.get(visit);
    if (known) known.reasons.push(reason);
    else visits.set(visit, { w, person, id: newId(), visit, seq, version, at: reason.at, reasons: [reason] });
  }
  await db.execute(sql`
    insert into traces (workspace_id, person_id, id, visit_id, sequence_id, version, at, reasons)
    select n.w, n.person, n.id, n.visit, n.seq, n.version, n.at, n.reasons
    from jsonb_to_recordset(${batch([...visits.values()])}) as n(w uuid, person uuid, id uuid, visit uuid, seq uuid, version int, at bigint, reasons jsonb)`);
}
