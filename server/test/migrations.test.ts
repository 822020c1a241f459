import { randomUUID } from 'node:crypto';
import path from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { fillFrom } from '../../scripts/lib/backup.mjs';
import { offerSchema } from '@ascenso/core';
import { sequencesBehind } from '../src/db/behind.ts';
import { connect, type Connection } from '../src/db/connect.ts';
import { migrateSchema } from '../src/db/migrating.ts';
import { counted, tablesOf } from './support/tables.ts';
import { migrations } from './support/world.ts';

// The demo of 25 people and 21 days as the release with schema 0004 made it (pg_dump -Fc, November 2026), through every
// migration since: nothing of it is lost.
const DUMP = path.join(import.meta.dirname, 'schema-0004.dump');
let connection: Connection;
let before: Map<string, string>;
let columns: Map<string, string[]>;

/** What stands elsewhere by now, asked as it was and as it is. */
const MOVED: { from: string; was: string; is: string }[] = [
  {
    from: 'visits.next_due_at',
    was: 'select id, next_due_at as v from visits',
    is: 'select id, wake_at as v from visits',
  },
  {
    from: 'readings.link',
    was: 'select id, link as v from readings',
    is: "select id, case when link_repeat is null then link_number::text else link_repeat || '.' || link_item || '.' || link_number end as v from readings",
  },
  {
    from: 'versions.shared',
    was: `select v.sequence_id as id, v.number, e.* from versions v, jsonb_each(v.shared) e where v.doc::text like '%"shared": "' || e.key || '"%'`,
    is: "select v.sequence_id as id, v.number, e.* from versions v, jsonb_each(v.made->'shared') e",
  },
  {
    from: 'sends.values',
    was: 'select id, "values" as v from sends where "values" is not null',
    is: `select id, convert_from(substr("values", 2), 'UTF8')::jsonb as v from sends where get_byte("values", 0) = 0`,
  },
  // The words of an offer are made of its figure and what stands around it.
  {
    from: 'offers.doc',
    was: "select id, doc->>'words' as v, doc - 'words' - 'discount' as rest from offers",
    is: `select id, concat_ws(' ', nullif(doc->'around'->>'before', ''),
           case doc->'discount'->>'kind' when 'percent' then (doc->'discount'->>'value') || '% off' when 'amount' then '€' || (doc->'discount'->>'value') || ' off' end,
           nullif(doc->'around'->>'after', '')) as v, doc - 'around' - 'discount' as rest from offers`,
  },
  ...['code', 'step', 'data'].map((name) => ({
    from: `traces.${name}`,
    was: `select id, to_jsonb(${name}) as v from traces`,
    is: `select id, nullif(reasons->0->'${name}', 'null') as v from traces where jsonb_array_length(reasons) = 1`,
  })),
];
const sumOf = async (query: string): Promise<string> => {
  const { rows } = await connection.pool.query<{ sum: string }>(
    `select count(*) || ' ' || md5(string_agg(t::text, E'\\n' order by t::text)) as sum from (${query}) t`,
  );
  return rows[0]?.sum ?? '';
};
let moved: string[];

beforeAll(async () => {
  const admin = new pg.Client(process.env.TEST_DATABASE_URL);
  await admin.connect();
  const name = `test_${randomUUID().replaceAll('-', '').slice(0, 16)}`;
  await admin.query(`create database ${name}`);
  await admin.end();
  const url = new URL(process.env.TEST_DATABASE_URL ?? '');
  url.pathname = `/${name}`;
  await fillFrom(url.href, DUMP);
  connection = connect(url.href);
  columns = await tablesOf(connection.pool);
  for (const { from } of MOVED) {
    const [table = '', column] = from.split('.');
    columns.set(table, columns.get(table)?.filter((c) => c !== column) ?? []);
  }
  before = await counted(connection.pool, columns);
  moved = await Promise.all(MOVED.map(({ was }) => sumOf(was)));
});
afterAll(() => connection.close());

test('all that was there is there', async () => {
  await migrateSchema(connection, migrations, Date.UTC(2026, 2, 6));
  const after = await tablesOf(connection.pool);
  const gone = [...columns].flatMap(([t, all]) =>
    all.filter((c) => !after.get(t)?.includes(c)).map((c) => `${t}.${c}`),
  );
  expect(gone).toEqual([]);
  const now = await counted(connection.pool, columns);
  expect([...now].filter(([t, sum]) => before.get(t) !== sum).map(([t, s]) => [t, before.get(t), s])).toEqual([]);
  expect(await Promise.all(MOVED.map(({ is }) => sumOf(is)))).toEqual(moved);
  // Nothing has changed since: nothing is behind.
  const { rows: spaces } = await connection.pool.query<{ id: string }>('select id from workspaces');
  for (const { id } of spaces) expect(await sequencesBehind(connection.db, id)).toEqual([]);
  const { rows: offers } = await connection.pool.query<{ doc: unknown; promised: unknown[] }>(
    `select o.doc, array_agg(distinct g.discount) as promised from offers o join offer_grants g on g.workspace_id = o.workspace_id and g.offer_id = o.id group by o.workspace_id, o.id, o.doc`,
  );
  expect(offers.length).toBeGreaterThan(0);
  for (const { doc, promised } of offers) expect(promised).toEqual([offerSchema.parse(doc).discount]);
  // What that demo held nothing of was not tried.
  const empty = [...before].filter(([, sum]) => sum === '0 ').map(([table]) => table);
  expect(empty).toEqual(['approvals', 'comments', 'mail_days', 'marks', 'notices', 'sweep_members', 'tests']);
});
