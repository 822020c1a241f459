import { brotliCompressSync, brotliDecompressSync, constants } from 'node:zlib';
import { z } from 'zod';

// A history in one file: a workspace with everything that has happened in it, and what the simulated world around it keeps.
// First a line of JSON that says what made it, then tables and parts, each a line that names it and so many lines behind it.

/** Window of 8 MB: what repeats in a history lies within it. */
const WINDOW_BITS = 23;

const headSchema = z.strictObject({
  format: z.literal('ascenso-history'),
  /** What made it: the command, its seed, the release, and how many lived for how long. */
  command: z.string(),
  seed: z.string(),
  release: z.string(),
  people: z.int().positive(),
  days: z.int().min(0),
  /** Where the practice clock stood at its end, epoch ms. */
  now: z.int(),
  /** Migrations that its tables had. */
  migrations: z.int().positive(),
});
export type HistoryHead = z.infer<typeof headSchema>;

export interface HistoryTable {
  table: string;
  columns: string[];
  /** Rows in the order of their keys, columns with tabs between them (PostgreSQL, COPY, "Text Format"). */
  lines: string[];
}

export interface History {
  head: HistoryHead;
  tables: HistoryTable[];
  /** Messages in the order in which they came, each the id of an email. */
  mail: string[];
  /** What the stand-ins keep, by the path of its file. */
  kept: Record<string, string>;
}

const sectionSchema = z.union([
  z.strictObject({ table: z.string(), columns: z.array(z.string()).min(1), rows: z.int().min(0) }),
  z.strictObject({ mail: z.int().min(0) }),
  z.strictObject({ kept: z.string() }),
]);

/** As one text: the same history is the same text. */
export function historyText({ head, tables, mail, kept }: History): string {
  // In the order of the schema, however it was put together.
  const lines = [JSON.stringify(headSchema.parse(head))];
  const add = (section: z.infer<typeof sectionSchema>, some: readonly string[]) => {
    lines.push(JSON.stringify(section));
    for (const one of some) lines.push(one);
  };
  for (const { table, columns, lines: some } of tables) add({ table, columns, rows: some.length }, some);
  add({ mail: mail.length }, mail);
  for (const [file, text] of Object.entries(kept)) add({ kept: file }, [text]);
  return `${lines.join('\n')}\n`;
}

/** Packed as small as it gets, which takes a minute; or quickly, where it is read once and thrown away. */
export function packHistory(text: string, quickly: boolean): Buffer {
  const params = {
    [constants.BROTLI_PARAM_QUALITY]: quickly ? 1 : constants.BROTLI_MAX_QUALITY,
    [constants.BROTLI_PARAM_LGWIN]: WINDOW_BITS,
    [constants.BROTLI_PARAM_MODE]: constants.BROTLI_MODE_TEXT,
    [constants.BROTLI_PARAM_SIZE_HINT]: Buffer.byteLength(text),
  };
  return brotliCompressSync(text, { params });
}

/** Reads a packed history. Throws a sentence for a file that is none, or is not whole. */
export function readHistory(file: string, packed: Buffer): History {
  try {
    return parse(brotliDecompressSync(packed).toString());
  } catch (error) {
    throw new Error(`${file} is no history of Ascenso, or is not whole: ${(error as Error).message}`);
  }
}

function parse(text: string): History {
  const lines = text.split('\n');
  const history: History = { head: headSchema.parse(JSON.parse(lines[0] ?? '')), tables: [], mail: [], kept: {} };
  let at = 1;
  const take = (n: number): string[] => {
    const some = lines.slice(at, at + n);
    if (some.length < n) throw new Error('its end is missing');
    at += n;
    return some;
  };
  while (at < lines.length - 1) {
    const section = sectionSchema.parse(JSON.parse(lines[at++] ?? ''));
    if ('table' in section)
      history.tables.push({ table: section.table, columns: section.columns, lines: take(section.rows) });
    else if ('mail' in section) history.mail = take(section.mail);
    else history.kept[section.kept] = take(1)[0] ?? '';
  }
  return history;
}
