import { sql, type SQL } from 'drizzle-orm';
import { FILE_EVENT } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import type { SendKey } from '../mail/token.ts';

// Points for what people do, in the statement that keeps what they did: once, whatever is told twice.

/**
 * Notes the first opening, or the first click and with it the opening, of an email; each earns its points once, and an
 * offer that the email makes has been seen. Answers
 * whose it is; undefined where there is no such email. Tests earn nothing.
 */
export const noteReading = (
  db: Executor,
  { workspaceId: ws, sendId }: SendKey,
  what: 'opened' | 'clicked',
  at: number,
): Promise<{ person: string; visit: string | null } | undefined> => {
  const clicks = what === 'clicked';
  return firstRow(
    db,
    sql`with before as (select person_id, visit_id, opened_at, clicked_at, program_hash from sends where workspace_id = ${ws} and id = ${sendId} for update),
          noted as (update sends set opened_at = coalesce(opened_at, ${at}) ${clicks ? sql`, clicked_at = coalesce(clicked_at, ${at})` : sql``} where workspace_id = ${ws} and id = ${sendId}),
          earned as (
            select b.person_id, case when b.opened_at is null then (w.points->>'opened')::int else 0 end
              + case when ${clicks} and b.clicked_at is null then (w.points->>'clicked')::int else 0 end as n
            from before b, workspaces w where w.id = ${ws} and b.visit_id is not null),
          given as (update people p set points = p.points + e.n from earned e where p.workspace_id = ${ws} and p.id = e.person_id and e.n <> 0),
          seen as (
            update offer_grants g set seen_at = ${at} from before b join programs e on e.workspace_id = ${ws} and e.hash = b.program_hash
            where b.visit_id is not null and b.opened_at is null and g.workspace_id = ${ws} and g.person_id = b.person_id and g.offer_id::text = e.program->>'offer' and g.seen_at is null)
        select person_id as person, visit_id as visit from before`,
  );
};

/**
 * What an event that `kept` (a common table with a row where it was kept) earns, as a common table. A file that somebody
 * has downloaded before earns nothing more.
 */
export const earnedBy = (ws: string, person: string, name: string, payload: Record<string, unknown>): SQL => {
  const again =
    name === FILE_EVENT
      ? sql`and not exists (select 1 from events o where o.workspace_id = ${ws} and o.person_id = ${person} and o.name = ${name} and o.payload->>'file' = ${String(payload.file)})`
      : sql``;
  return sql`given as (
    update people p set points = p.points + (w.points->'events'->>${name}::text)::int from workspaces w
    where w.id = ${ws} and w.points->'events' ? ${name}::text and p.workspace_id = ${ws} and p.id = ${person} and exists (select 1 from kept) ${again})`;
};
