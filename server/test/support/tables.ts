import type pg from 'pg';

type Asks = Pick<pg.Pool, 'query'>;

/** Every table of a database with its columns. */
export async function tablesOf(db: Asks): Promise<Map<string, string[]>> {
  const { rows } = await db.query<{ name: string; columns: string[] }>(
    `select c.relname as name, array_agg(a.attname::text order by a.attname) as columns
     from pg_class c join pg_namespace n on n.oid = c.relnamespace join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
     where n.nspname = 'public' and c.relkind in ('r', 'p') and not c.relispartition group by 1 order by 1`,
  );
  return new Map(rows.map((r) => [r.name, r.columns]));
}

/** How many rows each table holds, and a sum of what stands in some of its columns (all of them unless told). */
export async function counted(db: Asks, columns?: Map<string, string[]>): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (const [table, all] of columns ?? (await tablesOf(db))) {
    const row = all.map((c) => `"${c}"`).join(', ');
    const { rows } = await db.query<{ sum: string }>(
      `select count(*) || ' ' || coalesce(md5(string_agg(t::text, E'\\n' order by t::text)), '') as sum from (select ${row} from "${table}") t`,
    );
    found.set(table, rows[0]?.sum ?? '');
  }
  return found;
}
