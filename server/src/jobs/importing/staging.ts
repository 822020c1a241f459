import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import { from as copyFrom } from 'pg-copy-streams';
import type { Connection } from '../../db/connect.ts';

// Rows by COPY, which takes them ten times as fast as INSERT does.

type Cell = string | number | boolean | null | readonly string[] | { json: unknown };

/** Text of a COPY column (PostgreSQL, COPY, "Text Format"). */
const escaped = (text: string) =>
  text.replace(/[\\\n\r\t]/g, (c) => (c === '\\' ? '\\\\' : c === '\n' ? '\\n' : c === '\r' ? '\\r' : '\\t'));

const element = (text: string) => `"${text.replace(/[\\"]/g, '\\$&')}"`;

function column(cell: Cell): string {
  if (cell === null) return '\\N';
  if (typeof cell === 'string') return escaped(cell);
  if (typeof cell === 'number') return String(cell);
  if (typeof cell === 'boolean') return cell ? 't' : 'f';
  if ('json' in cell) return escaped(JSON.stringify(cell.json));
  return escaped(`{${cell.map(element).join(',')}}`);
}

/** One row as a line of COPY. */
export const copyLine = (cells: readonly Cell[]): string => `${cells.map(column).join('\t')}\n`;

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
