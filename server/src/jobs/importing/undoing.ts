import { sql } from 'drizzle-orm';
import { businessNow } from '../../app/clock.ts';
import type { Connection, Tx } from '../../db/connect.ts';
import { firstRow } from '../../db/rows.ts';
import { transact } from '../../db/transact.ts';
import { sourceOf } from '../../people/consent.ts';
import { datesOfFile } from './dates.ts';
import { finish, noteProgress, type Job } from './job.ts';
import { hasChanged, madeBy, mine } from './merging.ts';
import { importSource } from './running.ts';

const CHUNK = 10_000;

const chunk = (job: Job, from: number) => sql`${mine(job)} and r.n >= ${from} and r.n < ${from + CHUNK}`;

/** Something has happened to them since: they were mailed, did something, or are in a sequence. They stay. */
const lived = sql`(exists (select 1 from visits v where v.workspace_id = p.workspace_id and v.person_id = p.id)
  or exists (select 1 from sends s where s.workspace_id = p.workspace_id and s.person_id = p.id)
  or exists (select 1 from events e where e.workspace_id = p.workspace_id and e.person_id = p.id)
  or exists (select 1 from offer_grants g where g.workspace_id = p.workspace_id and g.person_id = p.id))`;

/** People whom the file made go, and all that is kept of them with them. Answers how many stay. */
async function removeMade(tx: Tx, job: Job, from: number): Promise<number> {
  const stays = await firstRow<{ n: number }>(
    tx,
    sql`with p as materialized (
          select p.workspace_id, p.id from import_rows r ${madeBy} where ${chunk(job, from)} order by p.id for update of p),
        gone as materialized (select * from p where not ${lived}),
        a as (delete from memberships m using gone g where m.workspace_id = g.workspace_id and m.person_id = g.id),
        b as (delete from consents c using gone g where c.workspace_id = g.workspace_id and c.person_id = g.id),
        c as (delete from sweep_members w using gone g where w.workspace_id = g.workspace_id and w.person_id = g.id),
        e as (delete from swept_dates w using gone g where w.workspace_id = g.workspace_id and w.person_id = g.id),
        f as (update suppressed k set held_by = null from gone g where k.workspace_id = g.workspace_id and k.held_by = g.id),
        d as (delete from people x using gone g where x.workspace_id = g.workspace_id and x.id = g.id)
        select ((select count(*) from p) - (select count(*) from gone))::int as n`,
  );
  return stays?.n ?? 0;
}

/** What the file changed of people who were known becomes what it was, unless somebody has changed it since. */
async function restoreChanged(tx: Tx, job: Job, from: number): Promise<void> {
  await tx.execute(sql`
    with o as materialized (
      select p.id, p.attributes, p.tags, p.zone, r.n, r.attributes as given, r.tags as tagged, r.zone as zoned, r.before
      from people p join import_rows r on r.workspace_id = p.workspace_id and r.person_id = p.id
      where ${chunk(job, from)} and ${hasChanged} order by p.id for update of p)
    update people p set
      attributes = (
        select coalesce(jsonb_object_agg(k, v) filter (where v is not null), '{}') from (
          select k, case when o.given->k is not null and p.attributes->k = o.given->k then o.before->'attributes'->k else p.attributes->k end as v
          from jsonb_object_keys(p.attributes) k) kept),
      zone = case when o.zoned is not null and p.zone = o.zoned then o.before->>'zone' else p.zone end,
      tags = array(select t from unnest(p.tags) t where not (t = any (o.tagged)) or o.before->'tags' ? t)
    from o where p.workspace_id = ${job.ws} and p.id = o.id`);
}

/** Lists that the file put somebody on: they are off it, with the consent that came with it. */
async function leaveLists(tx: Tx, job: Job, from: number): Promise<void> {
  const source = await sourceOf(tx, job.ws, importSource(job));
  await tx.execute(sql`
    with put as materialized (
      select r.person_id, l::uuid as list from import_rows r, jsonb_array_elements_text(r.before->'joined') l
      where ${chunk(job, from)} and ${hasChanged} and r.before ? 'joined'),
    off as (
      delete from memberships m using put where m.workspace_id = ${job.ws} and m.person_id = put.person_id and m.list_id = put.list and m.state = 'confirmed'
        and not exists (select 1 from consents c where c.workspace_id = m.workspace_id and c.person_id = m.person_id and c.list_id = m.list_id and c.source_id <> ${source})
      returning m.person_id, m.list_id)
    delete from consents c using off where c.workspace_id = ${job.ws} and c.person_id = off.person_id and c.list_id = off.list_id and c.source_id = ${source}`);
}

/** Takes an import back as a whole, chunk by chunk. */
export async function undo(connection: Connection, job: Job, stopping: () => boolean): Promise<void> {
  const { db } = connection;
  for (let from = job.done; from < job.total; from += CHUNK) {
    if (stopping()) return;
    await transact(db, async (tx) => {
      await noteProgress(tx, job, Math.min(job.total, from + CHUNK));
      const kept = await removeMade(tx, job, from);
      await restoreChanged(tx, job, from);
      await leaveLists(tx, job, from);
      const now = await businessNow(tx);
      await tx.execute(
        sql`update visits v set wake_at = least(v.wake_at, ${now}) from import_rows r where ${chunk(job, from)} and ${hasChanged} and v.workspace_id = r.workspace_id and v.person_id = r.person_id and v.status = 'active'`,
      );
      await tx.execute(
        sql`update imports set counts = counts || jsonb_build_object('kept', (case when ${from} = 0 then 0 else (counts->>'kept')::int end) + ${kept}::int) where workspace_id = ${job.ws} and id = ${job.id}`,
      );
    });
  }
  await datesOfFile(db, job, await businessNow(db));
  await db.execute(sql`delete from import_rows r where ${mine(job)}`);
  await db.execute(sql`delete from import_pieces r where ${mine(job)}`);
  await finish(db, job, 'undone');
}
