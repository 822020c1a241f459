import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { from as copyFrom } from 'pg-copy-streams';
import type { Connection } from '../../db/connect.ts';

// Rows by COPY, which takes them ten times as fast as INSERT does.

type Cell = string | number | boolean | null | readonly string[] | { json: unknown };

const SPECIAL = /[\\\n\r\t]/;
const NAMES: Readonly<Record<string, string>> = { '\\': '\\\\', '\n': '\\n', '\r': '\\r', '\t': '\\t' };

/** Text of a COPY column (PostgreSQL, COPY, "Text Format"). */
const escaped = (text: string) => (SPECIAL.test(text) ? text.replace(/[\\\n\r\t]/g, (c) => NAMES[c] ?? c) : text);

const element = (text: string) => `"${/[\\"]/.test(text) ? text.replace(/[\\"]/g, '\\$&') : text}"`;

/** Lists of the same words come again and again, row after row. */
const arrays = new Map<string, string>();
function array(list: readonly string[]): string {
  if (list.length === 0) return '{}';
  const key = list.join('\u0000');
  const known = arrays.get(key);
  if (known !== undefined) return known;
  const text = escaped(`{${list.map(element).join(',')}}`);
  if (arrays.size > 1_000) arrays.clear();
  arrays.set(key, text);
  return text;
}

function column(cell: Cell): string {
  if (cell === null) return '\\N';
  if (typeof cell === 'string') return escaped(cell);
  if (typeof cell === 'number') return String(cell);
  if (typeof cell === 'boolean') return cell ? 't' : 'f';
  return 'json' in cell ? escaped(JSON.stringify(cell.json)) : array(cell);
}

/** One row as a line of COPY. */
export function copyLine(cells: readonly Cell[]): string {
  let line = column(cells[0] ?? null);
  for (let i = 1; i < cells.length; i++) line += `\t${column(cells[i] ?? null)}`;
  return `${line}\n`;
}

/** Writes lines into a table, all of them or none. */
export async function copyInto(connection: Connection, table: string, lines: readonly string[]): Promise<void> {
  if (lines.length === 0) return;
  const client = await connection.pool.connect();
  try {
    await pipeline(Readable.from([lines.join('')]), client.query(copyFrom(`copy ${table} from stdin`)));
    client.release();
  } catch (error) {
    // A connection in the middle of a COPY is good for nothing else.
    client.release(true);
    throw error;
  }
}
