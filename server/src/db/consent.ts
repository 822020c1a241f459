import { sql, type SQL } from 'drizzle-orm';
import type { ConsentRow } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';

/** A person's record of consent, the latest first. */
export const consentOf = (db: Executor, ws: string, person: string): Promise<ConsentRow[]> =>
  rows(
    db,
    sql`select c.id, case when c.list_id is null then null else coalesce(l.name, 'a list that is gone') end as list, c.what, c.at, s.how, s.label as source, s.words, c."where"
        from consents c join consent_sources s on s.workspace_id = c.workspace_id and s.id = c.source_id
        left join lists l on l.workspace_id = c.workspace_id and l.id = c.list_id
        where c.workspace_id = ${ws} and c.person_id = ${person} order by c.at desc, c.id desc`,
  );

/** By what somebody joined a list last: one row with `how`, or none. */
export const LAST_CONSENT = (ws: SQL, person: SQL, list: SQL): SQL =>
  sql`select s.how from consents c join consent_sources s on s.workspace_id = c.workspace_id and s.id = c.source_id
      where c.workspace_id = ${ws} and c.person_id = ${person} and c.list_id = ${list} and c.what = 'joined' order by c.at desc, c.id desc limit 1`;
