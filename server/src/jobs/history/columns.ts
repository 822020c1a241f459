import { sql } from 'drizzle-orm';
import type { Executor } from '../../db/connect.ts';
import { rows } from '../../db/rows.ts';

// Which columns of which tables make a history, and how they are written.

/** What belongs to one installation, or to the moment: these are made anew where a history is brought back. */
const LEFT_OUT = ['installation', 'web_sessions', 'presence', 'mail_service'];

export interface KeptTable {
  table: string;
  columns: string[];
  /** Columns of its key, in order. */
  key: string[];
}

/** The tables of the application, with what can be written into them: parents stand for their partitions. */
export const keptTables = (db: Executor): Promise<KeptTable[]> =>
  rows<KeptTable>(
    db,
    sql`select c.relname as "table",
          (select array_agg(a.attname::text order by a.attnum) from pg_attribute a
            where a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped and a.attgenerated = '') as columns,
          (select array_agg(a.attname::text order by k.n) from pg_index i
            cross join lateral unnest(i.indkey) with ordinality k(attnum, n)
            join pg_attribute a on a.attrelid = c.oid and a.attnum = k.attnum
            where i.indrelid = c.oid and i.indisprimary) as key
        from pg_class c
        where c.relnamespace = current_schema()::regnamespace and c.relkind in ('r', 'p') and not c.relispartition
          and c.relname <> '__drizzle_migrations' and c.relname <> all (${sql.param(LEFT_OUT)}::text[])
        order by c.relname`,
  );

/** The columns of a line of COPY's text format. */
export const cellsOf = (line: string): string[] => line.split('\t');

const WRITTEN: Readonly<Record<string, string>> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t', v: '\v' };

/** What a cell of COPY's text format says: the other way round of `escaped`. */
export const unescaped = (cell: string): string =>
  cell.includes('\\') ? cell.replace(/\\(.)/g, (_, c: string) => WRITTEN[c] ?? c) : cell;

/** Bytes as PostgreSQL writes them, and back. */
export const fromHex = (cell: string): Buffer => Buffer.from(unescaped(cell).slice(2), 'hex');
export const toHex = (bytes: Buffer): string => `\\\\x${bytes.toString('hex')}`;
