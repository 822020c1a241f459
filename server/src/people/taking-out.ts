import { sql } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { recallEmails } from './cancelling.ts';
import { writeTraces } from './traces.ts';

/** People who were added to a sequence by hand together, as the bin keeps them. */
export interface AddedByHand {
  sequence: string;
  cause: string;
  people: string[];
}

/**
 * Takes those out again who were added together, as long as they have got nothing for it: an email that has gone cannot be taken
 * back. They may enter as if they had never been inside. Answers how many stay.
 */
export async function takeOutAgain(tx: Tx, ws: string, added: AddedByHand, now: number): Promise<number> {
  const { sequence, cause } = added;
  const theirs = sql`v.workspace_id = ${ws} and v.sequence_id = ${sequence} and v.cause_id = ${cause} and v.person_id = any (${sql.param(added.people)}::uuid[])`;
  // First the emails that could still go: what is under way by now counts as gone.
  const mailed = sql`exists (select 1 from sends s where s.workspace_id = v.workspace_id and s.visit_id = v.id and s.status not in ('queued', 'cancelled'))`;
  const gone = await rows<{ id: string; person: string; version: number; step: string | null }>(
    tx,
    sql`update visits v set status = 'done', step = null, due_at = 0, wake_at = 0, ended_at = ${now}, ending = 'undone'
        from (select v.id, v.step from visits v where ${theirs} and v.ending is distinct from 'undone' order by v.id for update) o
        where v.workspace_id = ${ws} and v.id = o.id and not ${mailed}
        returning v.id, v.person_id as person, v.version, o.step`,
  );
  if (gone.length > 0) {
    const visits = sql`s.visit_id in (select id from jsonb_to_recordset(${batch(gone.map(({ id }) => ({ id })))}) as g(id uuid))`;
    await recallEmails(tx, sql`s.workspace_id = ${ws} and ${visits}`, { why: 'stopped', at: now });
  }
  await writeTraces(
    tx,
    gone.map(({ id, person, version, step }) => ({
      ...{ w: ws, person, visit: id, seq: sequence, version, at: now, step },
      code: 'taken-out' as const,
      data: {},
    })),
  );
  return added.people.length - gone.length;
}
