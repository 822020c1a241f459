import { sql, type SQL } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { freeUnsent } from './offers.ts';

export interface CancelledSend {
  w: string;
  id: string;
  visit: string;
  person_id: string;
  version: number;
  step: string;
}

/** Takes back emails of sequences that are queued and not under way, with what was reserved for them. `which` is about `sends s`. */
export async function cancelQueued(tx: Tx, which: SQL): Promise<CancelledSend[]> {
  const cancelled = await rows<CancelledSend>(
    tx,
    sql`update sends s set status = 'cancelled' where s.status = 'queued' and s.visit_id is not null and ${which}
        returning s.workspace_id as w, s.id, s.visit_id as visit, s.person_id, s.version, s.step`,
  );
  await freeUnsent(tx, cancelled);
  return cancelled;
}
