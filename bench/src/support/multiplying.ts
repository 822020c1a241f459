import pg from 'pg';

// A workspace made many times as large, from what the engine itself has written: each row again and again under ids of its
// own, which are made from the old id and the number of the copy, so that rows which belong together still do.

/** Columns that hold ids which are copied with their rows, by table; and what has to differ from copy to copy. */
const TABLES: readonly { table: string; ids: string[]; also?: Record<string, string> }[] = [
  { table: 'people', ids: ['id'], also: { email: `'c' || k || '.' || email` } },
  { table: 'memberships', ids: ['person_id'] },
  { table: 'visits', ids: ['id', 'person_id', 'by_visit'], also: { cause_id: `cause_id || ':' || k` } },
  { table: 'sends', ids: ['id', 'visit_id', 'person_id'] },
  { table: 'readings', ids: ['send_id', 'id'] },
  { table: 'traces', ids: ['id', 'visit_id', 'person_id'] },
  { table: 'events', ids: ['id', 'person_id'] },
  { table: 'offer_grants', ids: ['person_id'], also: { code: `code || 'K' || k`, code_key: `code_key || 'K' || k` } },
  {
    table: 'offer_uses',
    ids: ['person_id'],
    also: { order_id: `order_id || ':' || k`, code: `code || 'K' || k` },
  },
  { table: 'orders', ids: ['id', 'person_id', 'send_id', 'visit_id'], also: { number: `number || ':' || k` } },
];

const quoted = (name: string) => `"${name}"`;

/**
 * Makes `times` as much of what people did, of what there is now. Triggers count it as they count everything. `round` is a
 * letter, another at each call on the same data: copies of copies have names of their own.
 */
export async function multiply(
  url: string,
  times: number,
  round: string,
  told: (table: string) => void,
): Promise<void> {
  const client = new pg.Client(url);
  await client.connect();
  try {
    for (const { table, ids, also = {} } of TABLES) {
      const columns = (
        await client.query<{ name: string }>(
          `select column_name as name from information_schema.columns where table_name = $1 and table_schema = current_schema() and is_generated = 'NEVER' order by ordinal_position`,
          [table],
        )
      ).rows.map((r) => r.name);
      const values = columns.map((c) =>
        also[c] ? also[c] : ids.includes(c) ? `md5(${quoted(c)}::text || k)::uuid` : quoted(c),
      );
      await client.query(`create temp table was as select * from ${quoted(table)}`);
      // In parts, so that no statement holds all of it.
      for (let from = 1; from < times; from += 25)
        await client.query(
          `insert into ${quoted(table)} (${columns.map(quoted).join(', ')})
           select ${values.join(', ')} from was cross join (select '${round}' || n as k from generate_series(${from}, ${Math.min(times - 1, from + 24)}) n) copies`,
        );
      await client.query('drop table was');
      told(table);
    }
    await client.query('vacuum analyze');
  } finally {
    await client.end();
  }
}
