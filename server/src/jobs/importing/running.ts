import { sql } from 'drizzle-orm';
import { businessNow } from '../../app/clock.ts';
import type { Connection, Tx } from '../../db/connect.ts';
import { firstRow, rows } from '../../db/rows.ts';
import { transact } from '../../db/transact.ts';
import { sourceOf } from '../../people/consent.ts';
import { hashOf } from '../../people/erasing.ts';
import { keepOutOfSegments } from '../../sequences/sweeps.ts';
import { datesOfFile } from './dates.ts';
import { endMail } from './ending.ts';
import { finish, noteProgress, Stopped, type Job } from './job.ts';
import { changes, hasChanged, merged, mergedZone, mine } from './merging.ts';
import { startAsked, type Done } from './starting.ts';

/** Rows that are taken in within one transaction. */
const CHUNK = 10_000;

export const importSource = (job: Job) =>
  ({ how: 'import', label: job.name, words: job.plan.consent, ref: job.id }) as const;

/** What a chunk has done: to whom, and how to take it back. */
interface Taken {
  made: number;
  changed: number;
  started: number;
}

/** How many rows of a chunk can be taken in, and how many people they made. */
interface Made {
  made: number;
  there: number;
}

/** Rows of the chunk that are read, as `r`. */
const chunk = (job: Job, from: number) =>
  sql`${mine(job)} and r.n >= ${from} and r.n < ${from + CHUNK} and r.fault is null`;

/**
 * New people, on their lists with the consent that the file brings: one statement, since nothing of theirs can be there yet.
 * The consent for a list has the list's id: it is the first of this person, and a random one would cost a tenth of the import.
 * Whose address ended mail before an erasure stays without it, and who had left a list stays off it.
 */
async function makePeople(tx: Tx, job: Job, from: number, now: number, source: string): Promise<Made> {
  const anyLeft = await firstRow(tx, sql`select 1 from left_lists where workspace_id = ${job.ws} limit 1`);
  const hash = hashOf(job.ws, sql`r.email`);
  const stays = sql`where not exists (select 1 from left_lists k where k.workspace_id = r.workspace_id and k.list_id = l and k.hash = ${hash})`;
  const made = await firstRow<Made>(
    tx,
    sql`with r as materialized (select * from import_rows r where ${chunk(job, from)}),
        made as (
          insert into people (workspace_id, id, email, attributes, tags, zone, created_at)
          select r.workspace_id, r.person_id, r.email, r.attributes, r.tags, r.zone, ${now} from r
          on conflict (workspace_id, email) do nothing returning id),
        put as materialized (
          select r.person_id, r.consent_at, l as list_id from r join made on made.id = r.person_id, unnest(r.lists) l ${anyLeft ? stays : sql``}),
        joined as (
          insert into memberships (workspace_id, person_id, list_id, state, at)
          select ${job.ws}, person_id, list_id, 'confirmed', ${now} from put),
        agreed as (
          insert into consents (workspace_id, person_id, id, list_id, what, at, source_id)
          select ${job.ws}, person_id, list_id, list_id, 'joined', coalesce(consent_at, ${now}), ${source} from put)
        select (select count(*) from made)::int as made, (select count(*) from r)::int as there`,
  );
  const known = await firstRow(tx, sql`select 1 from suppressed where workspace_id = ${job.ws} limit 1`);
  if (known)
    await tx.execute(
      sql`with held as (
            update suppressed k set held_by = r.person_id from import_rows r join people p on p.workspace_id = r.workspace_id and p.id = r.person_id
            where ${chunk(job, from)} and r.before is null and k.workspace_id = r.workspace_id and k.hash = ${hash}
            returning k.held_by as id, k.unsubscribed_at, k.bounced_at, k.complained_at)
          update people p set unsubscribed_at = k.unsubscribed_at, bounced_at = k.bounced_at, complained_at = k.complained_at
          from held k where p.workspace_id = ${job.ws} and p.id = k.id`,
    );
  if (anyLeft)
    await tx.execute(
      sql`insert into memberships (workspace_id, person_id, list_id, state, at)
          select k.workspace_id, p.id, k.list_id, 'left', k.at from import_rows r join people p on p.workspace_id = r.workspace_id and p.id = r.person_id
            join left_lists k on k.workspace_id = r.workspace_id and k.hash = ${hash} join lists on lists.workspace_id = k.workspace_id and lists.id = k.list_id
          where ${chunk(job, from)} and r.before is null on conflict do nothing`,
    );
  return made ?? { made: 0, there: 0 };
}

/** People who are known: what they had before is kept beside the row. */
async function changePeople(tx: Tx, job: Job, from: number): Promise<number> {
  if (job.plan.known === 'leave') return 0;
  const changed = await rows(
    tx,
    sql`with o as materialized (
          select p.*, r.n from import_rows r join people p on p.workspace_id = r.workspace_id and p.email = r.email and p.id <> r.person_id
          where ${chunk(job, from)} and ${changes(job)} order by p.id for update of p),
        done as (
          update people p set attributes = ${merged(job)}, zone = ${mergedZone(job)},
            tags = p.tags || array(select unnest(r.tags) except select unnest(p.tags))
          from import_rows r join o on o.n = r.n where ${chunk(job, from)} and p.workspace_id = r.workspace_id and p.id = o.id)
        update import_rows r set person_id = o.id, before = jsonb_build_object('attributes', o.attributes, 'zone', o.zone, 'tags', to_jsonb(o.tags))
        from o where ${chunk(job, from)} and r.n = o.n returning 1`,
  );
  // What they are asked about may have changed.
  if (changed.length > 0)
    await tx.execute(
      sql`update visits v set wake_at = least(v.wake_at, ${await businessNow(tx)}) from import_rows r where ${chunk(job, from)} and ${hasChanged} and v.workspace_id = r.workspace_id and v.person_id = r.person_id and v.status = 'active'`,
    );
  return changed.length;
}

/** Lists of people who are known, each with the consent that the file brings. Who has left a list stays off it. */
async function joinLists(tx: Tx, job: Job, from: number, now: number, source: string): Promise<void> {
  // The rows stand first, so that nothing is looked for row by row among them.
  await tx.execute(sql`
    with put as materialized (
      select r.person_id, r.consent_at, l as list_id from import_rows r, unnest(r.lists) l where ${chunk(job, from)} and ${hasChanged}),
    joined as (
      insert into memberships (workspace_id, person_id, list_id, state, at)
      select ${job.ws}, person_id, list_id, 'confirmed', ${now} from put
      on conflict (workspace_id, person_id, list_id) do update set state = 'confirmed', at = excluded.at, by_visit = null where memberships.state = 'pending'
      returning person_id, list_id)
    insert into consents (workspace_id, person_id, id, list_id, what, at, source_id)
    select ${job.ws}, person_id, gen_random_uuid(), list_id, 'joined', coalesce(put.consent_at, ${now}), ${source}
    from joined join put using (person_id, list_id)`);
  await tx.execute(sql`
    update import_rows r set before = r.before || jsonb_build_object('joined', coalesce((
      select jsonb_agg(c.list_id) from consents c where c.workspace_id = r.workspace_id and c.person_id = r.person_id and c.source_id = ${source}), '[]'))
    where ${chunk(job, from)} and ${hasChanged}`);
}

/** What the chunk did to each, for the sequences that were asked for. */
const doneIn = (tx: Tx, job: Job, from: number): Promise<Done[]> =>
  rows<Done>(
    tx,
    sql`select r.n, r.person_id as person, case when r.before is null then to_jsonb(r.lists) else r.before->'joined' end as joined,
          coalesce(r.before->'attributes', '{}') as before, p.attributes as after,
          array(select unnest(r.tags) except select jsonb_array_elements_text(coalesce(r.before->'tags', '[]'))) as tagged
        from import_rows r join people p on p.workspace_id = r.workspace_id and p.id = r.person_id where ${chunk(job, from)} order by r.n`,
  );

/** Whether a chunk has done anything already: it was whole then, and is counted. */
const isIn = async (tx: Tx, job: Job, from: number): Promise<boolean> =>
  (await firstRow(
    tx,
    sql`select 1 from import_rows r where ${chunk(job, from)} and (r.before is not null
          or exists (select 1 from people p where p.workspace_id = r.workspace_id and p.id = r.person_id)) limit 1`,
  )) !== undefined;

async function takeIn(tx: Tx, job: Job, from: number, now: number): Promise<Taken> {
  if (await isIn(tx, job, from)) return { made: 0, changed: 0, started: 0 };
  const source = await sourceOf(tx, job.ws, importSource(job));
  const { made, there } = await makePeople(tx, job, from, now, source);
  const changed = made === there ? 0 : await changePeople(tx, job, from);
  if (changed > 0) await joinLists(tx, job, from, now, source);
  if (job.plan.columns.some((c) => c.to === 'mail'))
    await endMail(tx, job.ws, chunk(job, from), { id: source, told: importSource(job) }, now);
  const taken = sql`select r.person_id from import_rows r where ${chunk(job, from)}`;
  await keepOutOfSegments(tx, job.ws, taken, now);
  const started = job.plan.starts.length > 0 ? await startAsked(tx, job, await doneIn(tx, job, from), now) : 0;
  return { made, changed, started };
}

/** Chunks at once: a database has more than one core. */
const LANES = 2;

/**
 * Takes the people of a checked file in. Each chunk is whole, taken in and counted once however often it is tried: whoever
 * has its row's id is in. `done` tells up to where all of them are.
 */
export async function run(connection: Connection, job: Job, stopping: () => boolean): Promise<void> {
  const { db } = connection;
  for (let from = job.done; from < job.total; from += LANES * CHUNK) {
    if (stopping()) return;
    await Promise.all(
      Array.from({ length: LANES }, (_, lane) =>
        transact(db, async (tx) => {
          const taken = await takeIn(tx, job, from + lane * CHUNK, await businessNow(tx));
          // Last, so that the lanes do not wait for each other here; and no chunk comes in behind a cancel.
          const going = await firstRow(
            tx,
            sql`update imports set counts = counts || jsonb_build_object('fresh', (counts->>'fresh')::int + ${taken.made}::int,
                  'changed', (counts->>'changed')::int + ${taken.changed}::int, 'started', (counts->>'started')::int + ${taken.started}::int)
                where workspace_id = ${job.ws} and id = ${job.id} and state = 'running' returning 1`,
          );
          if (!going) throw new Stopped();
        }),
      ),
    );
    await datesOfFile(db, job, await businessNow(db));
    await noteProgress(db, job, Math.min(job.total, from + LANES * CHUNK));
  }
  const now = await businessNow(db);
  await transact(db, async (tx) => {
    await tx.execute(sql`delete from import_pieces where workspace_id = ${job.ws} and import_id = ${job.id}`);
    await finish(tx, job, 'done', { endedAt: now });
  });
}
