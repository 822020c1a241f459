import { sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { VISIT_COLUMNS } from '../people/visits.ts';
import type { ClaimedRow } from './effects.ts';

/** Whether its person wants some days between emails. */
const PACED = sql`(select p.pace is not null from people p where p.workspace_id = v.workspace_id and p.id = v.person_id) as paced`;
const ASIDE = sql`exists (select 1 from set_aside a where a.workspace_id = v.workspace_id and a.kind = 'visit' and a.item = v.id::text) as aside`;

/**
 * Claims visits that are due, every workspace its share of the batch: the one with a hundred thousand due delays nobody
 * else. Locked until the transaction ends; what another process holds is passed over.
 */
export const claimDue = (tx: Executor, now: number, size: number): Promise<ClaimedRow[]> =>
  rows<ClaimedRow>(
    tx,
    sql`with due as (
          select w.id, count(*) over () as n from workspaces w
          cross join lateral (select 1 from visits v where v.workspace_id = w.id and v.status = 'active' and v.wake_at <= ${now} limit 1) one)
        select d.id as workspace_id, v.* from due d
        cross join lateral (
          select ${VISIT_COLUMNS}, v.wake_at, ${ASIDE}, ${PACED} from visits v
          where v.workspace_id = d.id and v.status = 'active' and v.wake_at <= ${now}
            and exists (select 1 from sequences s where s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.status <> 'paused')
          order by v.wake_at, v.id limit ceil(${size}::numeric / d.n)::int for update of v skip locked) v
        order by v.wake_at, v.id`,
  );

/** Claims those of some visits that are due still. */
export const claimAgain = (tx: Executor, now: number, visits: readonly ClaimedRow[]): Promise<ClaimedRow[]> =>
  rows<ClaimedRow>(
    tx,
    sql`select v.workspace_id, ${VISIT_COLUMNS}, ${ASIDE}, ${PACED} from visits v
        where v.id = any (${sql.param(visits.map((v) => v.id))}::uuid[]) and v.workspace_id = any (${sql.param([...new Set(visits.map((v) => v.workspace_id))])}::uuid[])
          and v.status = 'active' and v.wake_at <= ${now}
        order by v.wake_at, v.id for update of v skip locked`,
  );
