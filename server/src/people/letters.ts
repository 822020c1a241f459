import { sql } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { deleteSequences } from '../db/sequences.ts';

/**
 * Takes away the letters that were written to one person: their words are theirs. What was counted of them (that an email
 * went out, that it was opened) stays with the emails.
 */
export async function eraseLetters(tx: Tx, ws: string, person: string): Promise<void> {
  const letters = sql`(select id from sequences where workspace_id = ${ws} and person_id = ${person})`;
  await tx.execute(sql`
    delete from programs p using sends s where p.workspace_id = ${ws} and s.workspace_id = ${ws} and s.sequence_id in ${letters} and p.hash = s.program_hash
      and not exists (select 1 from sends o where o.workspace_id = ${ws} and o.program_hash = p.hash and o.sequence_id not in ${letters})`);
  await deleteSequences(tx, ws, sql`person_id = ${person}`);
}
