import { sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { rows } from '../db/rows.ts';

/** Whether some sequence that can be entered has a trigger of a kind: what nobody waits for need not be told. */
export async function isAwaited(db: Executor, ws: string, kind: 'tag' | 'attribute' | 'reading'): Promise<boolean> {
  const found = await rows(
    db,
    sql`select 1 from sequences where workspace_id = ${ws} and status in ('live', 'paused') and triggers @> ${JSON.stringify([{ kind }])}::jsonb limit 1`,
  );
  return found.length > 0;
}
