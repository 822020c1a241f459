import { sql } from 'drizzle-orm';
import { businessNow } from '../../app/clock.ts';
import type { Connection, Tx } from '../../db/connect.ts';
import { firstRow, rows } from '../../db/rows.ts';
import { transact } from '../../db/transact.ts';
import { sourceOf } from '../../people/consent.ts';
import { hashOf } from '../../people/erasing.ts';
import { keepOutOfSegments } from '../../sequences/sweeps.ts';
import { finish, noteProgress, type Job } from './job.ts';
import { changes, merged, mergedZone, mine } from './merging.ts';
import { startAsked, type Done } from './starting.ts';

/** Rows that are taken in within one transaction. */
const CHUNK = 10_000;

export const importSource = (job: Job) => ({ how: 'import', label: job.name, words: job.plan.consent }) as const;

/** What a chunk has done: to whom, and how to take it back. */
interface Taken {
  made: number;
  changed: number;
  started: number;
}

/** Rows of the chunk that are read, as `r`. */
const chunk = (job: Job, from: number) =>
  sql`${mine(job)} and r.n >= ${from} and r.n < ${from + CHUNK} and r.fault is null`;

/** New people. Whose address ended mail before an erasure stays without it. */
async function makePeople(tx: Tx, job: Job, from: number, now: number): Promise<number> {
  const made = await firstRow<{ n: number }>(
    tx,
    sql`with made as (
          insert into people (workspace_id, id, email, attributes, tags, zone, created_at)
          select r.workspace_id, r.person_id, r.email, r.attributes, r.tags, r.zone, ${now} from import_rows r where ${chunk(job, from)}
            and not exists (select 1 from people p where p.workspace_id = r.workspace_id and p.email = r.email)
          order by r.email on conflict (workspace_id, email) do nothing returning id),
        noted as (update import_rows r set made = true from made where ${chunk(job, from)} and r.person_id = made.id returning 1)
        select count(*)::int as n from noted`,
  );
  await tx.execute(
    sql`with known as materialized (select * from suppressed where workspace_id = ${job.ws}),
          back as (
            update people p set unsubscribed_at = k.unsubscribed_at, bounced_at = k.bounced_at, complained_at = k.complained_at
            from import_rows r, known k where exists (select 1 from known) and ${chunk(job, from)} and r.made and p.workspace_id = r.workspace_id and p.id = r.person_id
              and k.hash = ${hashOf(job.ws, sql`r.email`)} returning k.hash)
        delete from suppressed s using back where s.workspace_id = ${job.ws} and s.hash = back.hash`,
  );
  return made?.n ?? 0;
}

/** People who are known: what they had before is kept beside the row. */
const changePeople = async (tx: Tx, job: Job, from: number): Promise<number> => {
  if (job.plan.known === 'leave') return 0;
  const changed = await firstRow<{ n: number }>(
    tx,
    sql`with o as materialized (
          select p.*, r.n from people p join import_rows r on r.workspace_id = p.workspace_id and r.email = p.email
          where ${chunk(job, from)} and r.made is null and ${changes(job)} order by p.id for update of p),
        done as (
          update people p set attributes = ${merged(job)}, zone = ${mergedZone(job)},
            tags = p.tags || array(select unnest(r.tags) except select unnest(p.tags))
          from import_rows r join o on o.n = r.n where ${chunk(job, from)} and p.workspace_id = r.workspace_id and p.id = o.id
          returning p.id, r.n),
        noted as (
          update import_rows r set person_id = o.id, made = false,
            before = jsonb_build_object('attributes', o.attributes, 'zone', o.zone, 'tags', to_jsonb(o.tags))
          from o where ${chunk(job, from)} and r.n = o.n returning 1)
        select count(*)::int as n from noted`,
  );
  // What they are asked about may have changed.
  await tx.execute(
    sql`update visits v set wake_at = least(v.wake_at, v.due_at, ${await businessNow(tx)}) from import_rows r where ${chunk(job, from)} and r.made = false and v.workspace_id = r.workspace_id and v.person_id = r.person_id and v.status = 'active'`,
  );
  return changed?.n ?? 0;
};

/** Lists, each with the consent that the file brings. Who has left a list stays off it. */
async function joinLists(tx: Tx, job: Job, from: number, now: number): Promise<void> {
  const source = await sourceOf(tx, job.ws, importSource(job));
  await tx.execute(sql`
    with joined as (
      insert into memberships (workspace_id, person_id, list_id, state, at)
      select r.workspace_id, r.person_id, l, 'confirmed', ${now} from import_rows r, unnest(r.lists) l where ${chunk(job, from)} and r.made is not null
      on conflict (workspace_id, person_id, list_id) do update set state = 'confirmed', at = excluded.at, by_visit = null where memberships.state = 'pending'
      returning person_id, list_id),
    noted as (
      insert into consents (workspace_id, person_id, id, list_id, what, at, source_id)
      select ${job.ws}, j.person_id, gen_random_uuid(), j.list_id, 'joined', coalesce(r.consent_at, ${now}), ${source}
      from joined j join import_rows r on ${chunk(job, from)} and r.person_id = j.person_id and r.made is not null)
    update import_rows r set before = coalesce(r.before, '{}') || jsonb_build_object('joined', j.lists)
    from (select person_id, jsonb_agg(list_id) as lists from joined group by person_id) j where ${chunk(job, from)} and r.person_id = j.person_id and r.made is not null`);
}

/** What the chunk did to each, for the sequences that were asked for. */
const doneIn = (tx: Tx, job: Job, from: number): Promise<Done[]> =>
  rows<Done>(
    tx,
    sql`select r.n, r.person_id as person, coalesce(r.before->'joined', '[]') as joined, coalesce(r.before->'attributes', '{}') as before, p.attributes as after,
          array(select unnest(r.tags) except select jsonb_array_elements_text(coalesce(r.before->'tags', '[]'))) as tagged
        from import_rows r join people p on p.workspace_id = r.workspace_id and p.id = r.person_id where ${chunk(job, from)} and r.made is not null order by r.n`,
  );

/** Dates that a sweep would come to too late are looked at in the next round. */
const hastenSweeps = (tx: Tx, job: Job, now: number) => {
  const keys = job.plan.columns.flatMap((c) => (c.to === 'attribute' ? [c.key] : []));
  return tx.execute(
    sql`update sweeps set next_at = least(next_at, ${now}) where workspace_id = ${job.ws} and trigger->>'attribute' = any (${sql.param(keys)}::text[])`,
  );
};

async function takeIn(tx: Tx, job: Job, from: number, now: number): Promise<Taken> {
  const made = await makePeople(tx, job, from, now);
  const changed = await changePeople(tx, job, from);
  await joinLists(tx, job, from, now);
  const taken = sql`select r.person_id from import_rows r where ${chunk(job, from)} and r.made is not null`;
  await keepOutOfSegments(tx, job.ws, taken, now);
  const started = job.plan.starts.length > 0 ? await startAsked(tx, job, await doneIn(tx, job, from), now) : 0;
  return { made, changed, started };
}

/** Takes the people of a checked file in, chunk by chunk: each is whole, and goes on where the last one ended. */
export async function run(connection: Connection, job: Job, stopping: () => boolean): Promise<void> {
  const { db } = connection;
  const counts = job.counts;
  if (!counts) throw new Error('An import runs only once it has been checked.');
  for (let from = job.done; from < job.total; from += CHUNK) {
    if (stopping()) return;
    await transact(db, async (tx) => {
      const now = await businessNow(tx);
      // First, so that of two processes one waits here, and finds out that the chunk is the other's.
      await noteProgress(tx, job, Math.min(job.total, from + CHUNK));
      const taken = await takeIn(tx, job, from, now);
      await tx.execute(sql`
        update imports set counts = counts || jsonb_build_object('fresh', (case when ${from} = 0 then 0 else (counts->>'fresh')::int end) + ${taken.made}::int,
          'changed', (case when ${from} = 0 then 0 else (counts->>'changed')::int end) + ${taken.changed}::int, 'started', (counts->>'started')::int + ${taken.started}::int)
        where workspace_id = ${job.ws} and id = ${job.id}`);
    });
  }
  const now = await businessNow(db);
  await transact(db, async (tx) => {
    await hastenSweeps(tx, job, now);
    await tx.execute(sql`delete from import_pieces where workspace_id = ${job.ws} and import_id = ${job.id}`);
    await finish(tx, job, 'done', { endedAt: now });
  });
}
