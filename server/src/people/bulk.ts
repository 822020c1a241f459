import { sql, type SQL } from 'drizzle-orm';
import type { Value } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { emptyBin } from '../db/emptying.ts';
import { firstRow } from '../db/rows.ts';
import { sourceOf, type ConsentSource } from './consent.ts';

// What is done to many people at once: set by set, never one by one. No sequence starts by it (architecture, 15); whoever
// is inside one is looked at, since what is known of them has changed.

/** People, as an array of ids. */
const these = (ids: readonly string[]): SQL => sql`any (${sql.param(ids)}::uuid[])`;

const wake = (tx: Tx, ws: string, ids: readonly string[], now: number) =>
  tx.execute(
    sql`update visits set wake_at = least(wake_at, ${now}) where workspace_id = ${ws} and person_id = ${these(ids)} and status = 'active'`,
  );

export interface Done {
  changed: number;
  /** Under which it can be taken back, or null where nobody was changed. */
  undo: string | null;
}

/** Does it (`ctes`), and keeps who was changed with what they had (`told`, one row of JSON) for a week. */
async function keep(
  tx: Tx,
  ws: string,
  kind: 'tag' | 'tagged' | 'set' | 'joined',
  { ctes, told }: { ctes: SQL; told: SQL },
): Promise<Done> {
  await emptyBin(tx);
  const undo = newId();
  const kept = await firstRow<{ n: number }>(
    tx,
    sql`with ${ctes}, told as (${told})
        insert into bin (workspace_id, id, kind, row, binned_at) select ${ws}, ${undo}, ${kind}, told.it, now() from told
        where jsonb_array_length(told.it->'people') > 0 returning jsonb_array_length(row->'people') as n`,
  );
  return { changed: kept?.n ?? 0, undo: kept ? undo : null };
}

/** Puts a tag on people who do not have it. */
export async function tagMany(tx: Tx, ws: string, ids: readonly string[], tag: string, now: number): Promise<Done> {
  await wake(tx, ws, ids, now);
  return keep(tx, ws, 'tagged', {
    ctes: sql`who as materialized (select id from people where workspace_id = ${ws} and id = ${these(ids)} and not tags @> array[${tag}::text] order by id for update),
          done as (update people p set tags = p.tags || ${tag}::text from who where p.workspace_id = ${ws} and p.id = who.id)`,
    told: sql`select jsonb_build_object('tag', ${tag}::text, 'people', coalesce(jsonb_agg(id), '[]')) as it from who`,
  });
}

/** Takes a tag off people who have it. */
export async function untagMany(tx: Tx, ws: string, ids: readonly string[], tag: string, now: number): Promise<Done> {
  await wake(tx, ws, ids, now);
  return keep(tx, ws, 'tag', {
    ctes: sql`who as materialized (select id from people where workspace_id = ${ws} and id = ${these(ids)} and tags @> array[${tag}::text] order by id for update),
          done as (update people p set tags = array_remove(p.tags, ${tag}::text) from who where p.workspace_id = ${ws} and p.id = who.id)`,
    told: sql`select jsonb_build_object('tag', ${tag}::text, 'by', null, 'both', '[]'::jsonb, 'people', coalesce(jsonb_agg(id), '[]')) as it from who`,
  });
}

/** Sets an attribute, or takes its value away. */
export async function setMany(
  tx: Tx,
  ws: string,
  ids: readonly string[],
  { key, value }: { key: string; value: Value },
  now: number,
): Promise<Done> {
  const next = JSON.stringify({ [key]: value });
  await wake(tx, ws, ids, now);
  return keep(tx, ws, 'set', {
    ctes: sql`who as materialized (
            select id, attributes->${key}::text as had from people where workspace_id = ${ws} and id = ${these(ids)}
              and jsonb_strip_nulls(attributes || ${next}::jsonb) <> attributes order by id for update),
          done as (update people p set attributes = jsonb_strip_nulls(p.attributes || ${next}::jsonb) from who where p.workspace_id = ${ws} and p.id = who.id)`,
    told: sql`select jsonb_build_object('key', ${key}::text, 'people', coalesce(jsonb_agg(jsonb_build_array(id, had)), '[]')) as it from who`,
  });
}

/** Puts people on a list. Who has left it stays off it. */
export async function joinMany(
  tx: Tx,
  ws: string,
  ids: readonly string[],
  list: string,
  source: ConsentSource,
  now: number,
): Promise<Done> {
  const id = await sourceOf(tx, ws, { ...source, ref: newId() });
  await wake(tx, ws, ids, now);
  return keep(tx, ws, 'joined', {
    ctes: sql`had as materialized (select person_id from memberships where workspace_id = ${ws} and list_id = ${list} and person_id = ${these(ids)} and state = 'pending'),
          joined as (
            insert into memberships (workspace_id, person_id, list_id, state, at)
            select ${ws}, p.id, ${list}, 'confirmed', ${now}::bigint from people p where p.workspace_id = ${ws} and p.id = ${these(ids)} order by p.id
            on conflict (workspace_id, person_id, list_id) do update set state = 'confirmed', at = excluded.at, by_visit = null where memberships.state = 'pending'
            returning person_id),
          noted as (
            insert into consents (workspace_id, person_id, id, list_id, what, at, source_id)
            select ${ws}, person_id, gen_random_uuid(), ${list}, 'joined', ${now}::bigint, ${id}::uuid from joined)`,
    told: sql`select jsonb_build_object('list', ${list}::text, 'source', ${id}::text, 'at', ${now}::bigint, 'people', coalesce(jsonb_agg(person_id), '[]'),
          'pending', (select coalesce(jsonb_agg(person_id), '[]') from had)) as it from joined`,
  });
}
