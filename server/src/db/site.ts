import { sql } from 'drizzle-orm';
import { PAGE_EVENT } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';

/** Hosts of a workspace's own sites. */
export const siteHosts = async (db: Executor, ws: string): Promise<string[]> =>
  (await firstRow<{ hosts: string[] }>(db, sql`select site_hosts as hosts from workspaces where id::text = ${ws}`))
    ?.hosts ?? [];

/** The kind of event is declared with the first page, so that sentences and emails can speak of it. */
export const declarePages = (db: Executor, ws: string) =>
  db.execute(sql`
    insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${ws}, ${PAGE_EVENT}, 'Reached a page',
      '[{"name":"page","type":"text"},{"name":"site","type":"text"},{"name":"title","type":"text"},{"name":"address","type":"text"}]'::jsonb,
      '{"page":"/kits/coptic","site":"foldwell.example","title":"Coptic kit","address":"https://foldwell.example/kits/coptic"}'::jsonb, false)
    on conflict do nothing`);

/** Sets the hosts of the sites. */
export async function setSiteHosts(db: Executor, ws: string, hosts: readonly string[]): Promise<void> {
  await db.execute(sql`update workspaces set site_hosts = ${sql.param([...new Set(hosts)])}::text[] where id = ${ws}`);
  if (hosts.length > 0) await declarePages(db, ws);
}

/** Pages reached so far, and when last (epoch ms). */
export const pagesReached = async (db: Executor, ws: string): Promise<{ pages: number; last: number | null }> =>
  (await firstRow<{ pages: number; last: number | null }>(
    db,
    sql`select count(*) as pages, max(occurred_at) as last from events where workspace_id = ${ws} and name = ${PAGE_EVENT}`,
  )) ?? { pages: 0, last: null };
