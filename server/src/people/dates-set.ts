import { sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';

/**
 * Dates of people, or the zones that they are read in, have just been set: the sweeps that wait for them look in the next
 * round. `keys` names the attributes; a zone moves the moment of every one.
 */
export async function datesSet(db: Executor, ws: string, keys: readonly string[] | 'zone', now: number): Promise<void> {
  const those = keys === 'zone' ? sql`` : sql`and trigger->>'attribute' = any (${sql.param(keys)}::text[])`;
  await db.execute(
    sql`update sweeps set next_at = least(next_at, ${now}) where workspace_id = ${ws} and trigger->>'kind' = 'date' ${those}`,
  );
}
