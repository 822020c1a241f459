import type { Readable } from 'node:stream';
import { and, eq } from 'drizzle-orm';
import Papa from 'papaparse';
import { MAX_PEOPLE_FILE, type ImportFile } from '@ascenso/contracts';
import { readAddress } from '@ascenso/core';
import { invalid, UserError } from '../../app/errors.ts';
import { newId } from '../../app/ids.ts';
import type { Db } from '../../db/connect.ts';
import { importPieces, imports } from '../../db/schema/index.ts';
import { SEPARATOR_LINE } from './reading.ts';

/** Bytes of a piece of a file in the database. */
const PIECE = 256 * 1024;
/** What the first rows are read from. */
const HEAD = 64 * 1024;
const FIRST_ROWS = 40;
const SEPARATORS = [',', ';', '\t'];

/** Whether bytes are UTF-8, told as they come (WHATWG Encoding: fatal). */
class Utf8 {
  readonly #decoder = new TextDecoder('utf-8', { fatal: true });
  valid = true;

  take(bytes: Uint8Array, more: boolean): void {
    if (!this.valid) return;
    try {
      this.#decoder.decode(bytes, { stream: more });
    } catch {
      this.valid = false;
    }
  }
}

/** How a file is written: by its mark (byte order mark), by the noughts that UTF-16 has in plain letters, else by whether it is UTF-8. */
function encodingOf(head: Buffer, utf8: boolean): ImportFile['encoding'] {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  const noughts = (at: 0 | 1) => head.subarray(0, 1000).filter((b, i) => i % 2 === at && b === 0).length;
  const half = Math.min(head.length, 1000) / 2;
  if (noughts(1) > half * 0.6) return 'utf-16le';
  if (noughts(0) > half * 0.6) return 'utf-16be';
  return utf8 ? 'utf-8' : 'windows-1252';
}

/** The first rows of a file, and what separates its cells. */
function firstRows(head: Buffer, encoding: ImportFile['encoding'], whole: boolean) {
  const text = new TextDecoder(encoding).decode(head, { stream: !whole });
  // The last line may be cut off.
  const ended = text.replaceAll(/\r(?!\n)/g, '\n');
  const told = SEPARATOR_LINE.exec(ended);
  const from = told?.[0].length ?? 0;
  const lines = whole ? ended.slice(from) : ended.slice(from, ended.lastIndexOf('\n') + 1) || ended.slice(from);
  const read = Papa.parse<string[]>(lines, {
    preview: FIRST_ROWS,
    newline: '\n',
    ...(told && SEPARATORS.includes(told[1] ?? '') ? { delimiter: told[1] ?? ',' } : { delimitersToGuess: SEPARATORS }),
    skipEmptyLines: true,
  });
  const separator = SEPARATORS.includes(read.meta.delimiter) ? read.meta.delimiter : ',';
  return { separator, rows: read.data.map((r) => r.map((c) => c.slice(0, 200))) };
}

/**
 * Takes a file of people in, piece by piece, and reads its first rows. Nothing is known of anybody by it yet. Answers the
 * id of the import; a file that breaks off, is too large or is none is refused and leaves nothing behind.
 */
export async function receiveFile(
  db: Db,
  ws: string,
  { name, by }: { name: string; by: string },
  file: Readable,
  now: number,
): Promise<string> {
  const id = newId();
  const one = and(eq(imports.workspaceId, ws), eq(imports.id, id));
  await db.insert(imports).values({ workspaceId: ws, id, name, by, state: 'uploading', createdAt: now });
  try {
    const utf8 = new Utf8();
    let head = Buffer.alloc(0);
    let [bytes, n] = [0, 0];
    let piece: Buffer[] = [];
    let held = 0;
    const keep = async () => {
      if (held === 0) return;
      await db.insert(importPieces).values({ workspaceId: ws, importId: id, n: n++, bytes: Buffer.concat(piece) });
      [piece, held] = [[], 0];
    };
    for await (const chunk of file as AsyncIterable<Buffer>) {
      bytes += chunk.length;
      if (bytes > MAX_PEOPLE_FILE)
        throw new UserError(
          413,
          'too-large',
          `That file is over ${MAX_PEOPLE_FILE / 1e6} MB. Send it in parts.`,
          'file',
        );
      if (head.length < HEAD) head = Buffer.concat([head, chunk.subarray(0, HEAD - head.length)]);
      utf8.take(chunk, true);
      piece.push(chunk);
      held += chunk.length;
      if (held >= PIECE) await keep();
    }
    utf8.take(new Uint8Array(), false);
    await keep();
    const encoding = encodingOf(head, utf8.valid);
    const read = firstRows(head, encoding, bytes <= HEAD);
    if (read.rows.length === 0) throw invalid('file', 'There is no row in that file.');
    if (read.rows.length === 1 && bytes <= HEAD && !read.rows[0]?.some((c) => 'email' in readAddress(c)))
      throw invalid(
        'file',
        'That file holds the names of its columns and no row of anybody. Export it anew, with its people.',
      );
    if (read.rows.flat().some((c) => c.includes('\u0000')))
      throw invalid('file', 'That is no file of text. Save it as CSV, then try again.');
    const told: ImportFile = { bytes, encoding, ...read };
    await db.update(imports).set({ state: 'uploaded', file: told }).where(one);
    return id;
  } catch (error) {
    await db.delete(importPieces).where(and(eq(importPieces.workspaceId, ws), eq(importPieces.importId, id)));
    await db.delete(imports).where(one);
    throw error;
  }
}
