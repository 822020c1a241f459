import type { Readable } from 'node:stream';
import { CsvError, parse, type Parser } from 'csv-parse';
import { sql } from 'drizzle-orm';
import type { CodesAnswer } from '@ascenso/contracts';
import { CODE, plainCode, sharedKeys, type Offer } from '@ascenso/core';
import { invalid, UserError } from '../app/errors.ts';
import type { Tx } from '../db/connect.ts';
import { lockCodes } from '../db/offer-store.ts';
import { batch, firstRow, rows } from '../db/rows.ts';

const CHUNK = 10_000;
/** A million codes of 64 characters, with their line ends. */
const MOST_BYTES = 70_000_000;
/** A row is a code, and perhaps what a shop's export puts beside it. */
const LONGEST_LINE = 10_000;
/** Refused rows that are told one by one. */
const TOLD = 100;

interface Line {
  line: number;
  code: string;
  key: string;
}

const TOO_LARGE = `That file is over ${MOST_BYTES / 1e6} MB: a million codes are the most at once. Send it in parts.`;

/** The rows of a file; what cannot be read is told with its line. */
async function* readable(parser: Parser): AsyncGenerator<{ record: string[]; info: { lines: number } }> {
  try {
    yield* parser as AsyncIterable<{ record: string[]; info: { lines: number } }>;
  } catch (error) {
    if (!(error instanceof CsvError)) throw error;
    // What is read in one go is counted as lines only at its end: the last whole row stands before the fault.
    const line = Number(error.records ?? error.lines ?? 0) + 1;
    if (error.code === 'CSV_QUOTE_NOT_CLOSED')
      throw invalid('file', `Line ${line}: a quotation mark is opened and never closed. Close it, or take it out.`);
    if (error.code === 'CSV_MAX_RECORD_SIZE')
      throw invalid(
        'file',
        `Line ${line} is over ${LONGEST_LINE} characters long. Perhaps a quotation mark is opened there and not closed.`,
      );
    throw invalid('file', `Line ${line} cannot be read as CSV: ${error.message}`);
  }
}

/**
 * Adds the codes of a CSV file to an offer, read as it comes: one code in the first column of each row, with or without a
 * heading "code". In the caller's transaction, which rolls back where a row is refused and `skip` is not said.
 */
export async function importCodes(
  tx: Tx,
  ws: string,
  offerId: string,
  file: Readable,
  skip: boolean,
): Promise<CodesAnswer> {
  const refused: CodesAnswer['refused'] = [];
  let refusedCount = 0;
  const refuse = (line: number, why: string) => {
    refusedCount++;
    if (refused.length < TOLD) refused.push({ line, why });
  };
  // The shop could not tell a person's own code from one that everybody has.
  await lockCodes(tx, ws);
  const offers = await rows<{ doc: Offer }>(tx, sql`select doc from offers where workspace_id = ${ws}`);
  const everybodys = new Set(offers.flatMap(({ doc }) => sharedKeys(doc)));
  const last = await firstRow<{ n: number | null }>(
    tx,
    sql`select max(n) as n from offer_codes where workspace_id = ${ws} and offer_id = ${offerId}`,
  );
  let n = (last?.n ?? -1) + 1;
  let added = 0;
  let chunk: Line[] = [];
  const write = async () => {
    const first = new Map<string, Line>();
    for (const l of chunk)
      if (first.has(l.key)) refuse(l.line, `“${l.code}” stands in line ${first.get(l.key)?.line} already.`);
      else first.set(l.key, l);
    const list = [...first.values()].map((l) => ({ ...l, n: n++ }));
    chunk = [];
    if (skip || refusedCount === 0) {
      const done = new Set(
        (
          await rows<{ key: string }>(
            tx,
            sql`
        insert into offer_codes (workspace_id, key, offer_id, code, made, n)
        select ${ws}, c.key, ${offerId}, c.code, false, c.n from jsonb_to_recordset(${batch(list)}) as c(key text, code text, n bigint)
        on conflict do nothing returning key`,
          )
        ).map((r) => r.key),
      );
      for (const l of list)
        if (!done.has(l.key)) refuse(l.line, `“${l.code}” is there already, in this file or in an offer.`);
      added += done.size;
    }
  };
  const parser = parse({
    bom: true,
    relax_column_count: true,
    skip_empty_lines: true,
    trim: true,
    info: true,
    relax_quotes: true,
    max_record_size: LONGEST_LINE,
    delimiter: [',', ';', '\t'],
  });
  // A pipe does not hand on that its source broke off: the transaction would wait for rows that never come.
  file.once('error', (error) => parser.destroy(error));
  let bytes = 0;
  file.on('data', (piece: Buffer) => {
    bytes += piece.length;
    if (bytes > MOST_BYTES) parser.destroy(new UserError(413, 'too-large', TOO_LARGE, 'file'));
  });
  file.pipe(parser);
  let row = 0;
  for await (const { record, info } of readable(parser)) {
    const code = record[0] ?? '';
    const line = info.lines;
    if (row++ === 0 && /^(coupon )?codes?$/i.test(code)) continue;
    if (!CODE.test(code))
      refuse(
        line,
        code === ''
          ? 'There is no code in the first column.'
          : `“${code.slice(0, 40)}” is no code: letters, figures, hyphens and dots, 2 to 64 of them, no spaces.`,
      );
    else if (everybodys.has(plainCode(code))) refuse(line, `“${code}” is the code that everybody gets in an offer.`);
    else chunk.push({ line, code, key: plainCode(code) });
    if (chunk.length >= CHUNK) await write();
  }
  await write();
  return { added, refused: refused.sort((a, b) => a.line - b.line), refusedCount };
}
