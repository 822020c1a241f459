import { sql } from 'drizzle-orm';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/**
 * Names of all that a hosted file stands in: drafts, versions with what they were compiled to (where a logo is, too),
 * shared blocks, templates, senders and the house style. Ids stand in their JSON as text.
 */
export async function usersOfFile(db: Executor, ws: string, id: string): Promise<string[]> {
  const like = `%${id}%`;
  const found = await rows<{ name: string }>(
    db,
    sql`select name from sequences where workspace_id = ${ws} and draft::text like ${like}
        union select s.name from versions v join sequences s on s.workspace_id = v.workspace_id and s.id = v.sequence_id
          where v.workspace_id = ${ws} and (v.doc::text like ${like} or exists (
            select 1 from jsonb_each_text(v.programs) e join programs p on p.workspace_id = v.workspace_id and p.hash = e.value where p.program::text like ${like}))
        union select name from shared_blocks where workspace_id = ${ws} and blocks::text like ${like}
        union select name from templates where workspace_id = ${ws} and email::text like ${like}
        union select name from senders where workspace_id = ${ws} and fields::text like ${like}
        union select 'House style' from workspaces where id = ${ws} and style::text like ${like}
        order by 1`,
  );
  return found.map((f) => f.name);
}
