import { sql } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { recallEmails } from './cancelling.ts';
import { writeTraces } from './traces.ts';
import { endVisits } from './visits.ts';

/** Ends what a person is inside of in one sequence, and takes back what is queued for it. Answers whether they were inside. */
export async function stopVisits(
  tx: Tx,
  ws: string,
  personId: string,
  sequence: string,
  at: number,
  by: string,
): Promise<boolean> {
  const ended = await endVisits(tx, ws, { sequence, person: personId }, at);
  for (const v of ended)
    await recallEmails(tx, sql`s.workspace_id = ${ws} and s.visit_id = ${v.id}`, { why: 'stopped', at });
  await writeTraces(
    tx,
    ended.map((v) => ({
      w: ws,
      person: v.person_id,
      visit: v.id,
      seq: sequence,
      version: v.version,
      at,
      step: v.step,
      code: 'stopped-by',
      data: { by },
    })),
  );
  return ended.length > 0;
}
