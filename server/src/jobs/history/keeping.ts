import { sql } from 'drizzle-orm';
import { to as copyTo } from 'pg-copy-streams';
import { unpackValues } from '../../db/packed.ts';
import type { Connection } from '../../db/connect.ts';
import { rows } from '../../db/rows.ts';
import { foldTallies } from '../../engine/tallying.ts';
import { escaped, NOTHING } from '../importing/staging.ts';
import { cellsOf, fromHex, keptTables, type KeptTable } from './columns.ts';
import type { History, HistoryTable } from './file.ts';
import { withoutSigns, type Signs } from './signs.ts';

/** Columns that tell nothing of a history: secrets, and moments of the system clock. */
const BLANK: Readonly<Record<string, Record<string, string>>> = {
  users: { password_hash: "''" },
  api_keys: { hash: "''", hint: "''" },
  draft_log: { edit: 'null' },
};

/** What a table holds, as COPY writes it, in the order of its key. */
async function linesOf(connection: Connection, { table, columns, key }: KeptTable): Promise<string[]> {
  const shown = columns.map((c) => BLANK[table]?.[c] ?? `"${c}"`).join(', ');
  const order = key.map((c) => `"${c}"`).join(', ');
  const client = await connection.pool.connect();
  try {
    const chunks: Buffer[] = [];
    const stream = client.query(copyTo(`copy (select ${shown} from "${table}" order by ${order}) to stdout`));
    for await (const chunk of stream) chunks.push(chunk as Buffer);
    return Buffer.concat(chunks).toString().split('\n').slice(0, -1);
  } finally {
    client.release();
  }
}

/** Emails say what they were filled with in the open, since addresses in it belong to one installation. */
async function openValues(connection: Connection, { columns, lines }: HistoryTable): Promise<string[]> {
  const known = await rows<{ hash: string; dictionary: Buffer | null }>(
    connection.db,
    sql`select hash, dictionary from programs`,
  );
  const dictionaries = new Map(known.map((k) => [k.hash, k.dictionary]));
  const [at, program] = [columns.indexOf('values'), columns.indexOf('program_hash')];
  return lines.map((line) => {
    const cells = cellsOf(line);
    if (cells[at] === NOTHING) return line;
    const values = unpackValues(fromHex(cells[at] ?? ''), dictionaries.get(cells[program] ?? '') ?? null);
    cells[at] = escaped(JSON.stringify(values));
    return cells.join('\t');
  });
}

/**
 * Reads the whole of an installation that nobody works on, as a history without its secrets. `mail` are the Message-IDs of
 * the mailbox in their order, `kept` the files of the stand-ins.
 */
export async function keepHistory(
  connection: Connection,
  head: History['head'],
  signs: Signs,
  mail: readonly string[],
  kept: Readonly<Record<string, string>>,
): Promise<History> {
  while ((await foldTallies(connection.db)) > 0);
  const tables: HistoryTable[] = [];
  for (const one of await keptTables(connection.db)) {
    const { table, columns } = one;
    const found: HistoryTable = { table, columns, lines: await linesOf(connection, one) };
    if (table === 'sends') found.lines = await openValues(connection, found);
    if (found.lines.length > 0) tables.push({ ...found, lines: found.lines.map((line) => withoutSigns(line, signs)) });
  }
  return {
    head,
    tables,
    mail: mail.map((id) => /[0-9a-f-]{36}/.exec(id)?.[0] ?? id),
    kept: Object.fromEntries(Object.entries(kept).map(([file, text]) => [file, withoutSigns(text, signs)])),
  };
}
