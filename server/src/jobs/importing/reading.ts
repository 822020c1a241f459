import { setImmediate } from 'node:timers/promises';
import { sql } from 'drizzle-orm';
import Papa from 'papaparse';
import type { ImportFile } from '@ascenso/contracts';
import type { Db } from '../../db/connect.ts';
import { firstRow } from '../../db/rows.ts';

/** A row of a file: the line it begins in (the first is 1), its cells, and whether its quotation marks are whole. */
export interface FileRow {
  line: number;
  cells: string[];
  broken: boolean;
}

/** A row longer than this is a quotation mark that nobody closed, more likely than not. */
const LONGEST_ROW = 4_000_000;

/** The file cannot be read on from here. */
export class Unreadable extends Error {}

/** Bytes that are read in one go: what is made of a few rows is forgotten again before anybody has to tidy up behind it. */
const AT_ONCE = 32 * 1024;

/** What comes of a file in one go, and how many of its bytes (in thousands) are read by then. */
type Part<T> = T & { read: number };

/** The text of a file, whatever it is written in. The mark at its beginning is no part of it. */
async function* textOf(
  db: Db,
  ws: string,
  id: string,
  encoding: ImportFile['encoding'],
): AsyncGenerator<Part<{ text: string }>> {
  const decoder = new TextDecoder(encoding);
  const piece = (n: number) =>
    firstRow<{ bytes: Buffer }>(
      db,
      sql`select bytes from import_pieces where workspace_id = ${ws} and import_id = ${id} and n = ${n}`,
    );
  let read = 0;
  for (let [n, next] = [1, piece(0)]; ; n++) {
    const here = await next;
    if (!here) break;
    // While this one is read, the database looks for the next.
    next = piece(n);
    next.catch(() => undefined);
    for (let at = 0; at < here.bytes.length; at += AT_ONCE) {
      // Whoever else is at work here, and what is on its way to the database, has its turn in between.
      await setImmediate();
      const bytes = here.bytes.subarray(at, at + AT_ONCE);
      read += bytes.length;
      yield { text: decoder.decode(bytes, { stream: true }), read: Math.round(read / 1000) };
    }
  }
  yield { text: decoder.decode(), read: Math.round(read / 1000) };
}

interface Parsed {
  data: string[][];
  errors: { code: string; row?: number }[];
  meta: { cursor: number };
}

/** A first line that tells spreadsheets what separates the cells, and is no row: `sep=;`. */
export const SEPARATOR_LINE = /^\uFEFF?"?sep=(.)"?[ \t]*(?:\r\n|\n|\r)/i;

const linesIn = (cells: readonly string[]) =>
  cells.reduce((n, c) => (c.includes('\n') ? n + (c.match(/\n/g)?.length ?? 0) : n), 1);

/** Reads the rows of a text that comes in parts (RFC 4180, and what spreadsheets make of it). */
export class RowReader {
  readonly #separator: string;
  #rest = '';
  #line = 1;
  #begun = false;

  constructor(separator: string) {
    this.#separator = separator;
  }

  /** The whole rows of what has come so far; the last one waits for its end, unless there is no more. */
  take(text: string, more: boolean): FileRow[] {
    let all = this.#rest + text;
    // A line end that has come by half waits for its other half.
    const half = more && all.endsWith('\r') ? '\r' : '';
    if (half) all = all.slice(0, -1);
    // Lines end with \n, with or without \r before it, or with \r alone: in a file put together of several, in all three ways.
    if (all.includes('\r')) all = all.replaceAll(/\r(?!\n)/g, '\n');
    if (!this.#begun && all !== '') {
      if (more && !all.includes('\n')) {
        this.#rest = all + half;
        if (all.length > LONGEST_ROW) throw this.#endless(1);
        return [];
      }
      this.#begun = true;
      const told = SEPARATOR_LINE.exec(all);
      if (told) [all, this.#line] = [all.slice(told[0].length), 2];
    }
    const parser = new Papa.Parser({ delimiter: this.#separator, newline: '\n' });
    const { data, errors, meta } = parser.parse(all, 0, more) as Parsed;
    const broken = new Set(errors.filter((e) => e.code === 'InvalidQuotes').map((e) => e.row));
    const open = errors.find((e) => e.code === 'MissingQuotes');
    const rows = data.map((cells, i) => {
      const row = { line: this.#line, cells, broken: broken.has(i) };
      this.#line += linesIn(cells);
      return row;
    });
    this.#rest = more ? all.slice(meta.cursor) + half : '';
    if (open && !more) throw this.#unclosed(rows.at(-1)?.line ?? this.#line);
    if (this.#rest.length > LONGEST_ROW) throw this.#endless(this.#line);
    return rows.filter((r) => r.cells.length > 1 || (r.cells[0] ?? '').trim() !== '');
  }

  #endless(line: number): Unreadable {
    return new Unreadable(
      `Line ${line} goes on for over ${LONGEST_ROW / 1e6} million characters. If a quotation mark is opened there and never closed, close it; else shorten the line.`,
    );
  }

  #unclosed(line: number): Unreadable {
    return new Unreadable(`Line ${line}: a quotation mark is opened and never closed. Close it, or take it out.`);
  }
}

/**
 * The rows of a file in batches, as they come. Rows without anything in them are passed over. Throws Unreadable where a
 * quotation mark is opened and never closed.
 */
export async function* readRows(
  db: Db,
  ws: string,
  id: string,
  file: Pick<ImportFile, 'encoding' | 'separator'>,
): AsyncGenerator<Part<{ rows: FileRow[] }>> {
  const reader = new RowReader(file.separator);
  let all = 0;
  for await (const { text, read } of textOf(db, ws, id, file.encoding)) {
    all = read;
    yield { rows: reader.take(text, true), read };
  }
  yield { rows: reader.take('', false), read: all };
}
