import { sql } from 'drizzle-orm';
import { plainCode } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { rows } from '../db/rows.ts';

/** Whatever could be a code, as a reader types it. */
const WORD = /[A-Za-z0-9][A-Za-z0-9._-]{1,63}/g;
const HIDDEN = '••••';

function* wordsIn(value: unknown): Generator<string> {
  if (typeof value === 'string') yield* value.match(WORD) ?? [];
  else if (typeof value === 'object' && value !== null) for (const v of Object.values(value)) yield* wordsIn(v);
}

const withoutWords = (value: unknown, hidden: ReadonlySet<string>): unknown => {
  if (typeof value === 'string') return value.replace(WORD, (word) => (hidden.has(word) ? HIDDEN : word));
  if (Array.isArray(value)) return value.map((v) => withoutWords(v, hidden));
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, withoutWords(v, hidden)]));
};

/**
 * An answer without the codes that belong to one person each, wherever they stand in it: a reviewer reads what people get, and
 * nobody hands them what it is worth. One code for everybody is what an email says, and stays.
 */
export async function withoutCodes(db: Executor, ws: string, answer: unknown): Promise<unknown> {
  // As a client would read it: dates and whatever else turns into text on its way.
  const told: unknown = JSON.parse(JSON.stringify(answer ?? {}));
  const words = [...new Set(wordsIn(told))];
  if (words.length === 0) return told;
  const found = await rows<{ key: string }>(
    db,
    sql`select key from offer_codes where workspace_id = ${ws} and key = any (${sql.param([...new Set(words.map(plainCode))])}::text[])`,
  );
  if (found.length === 0) return told;
  const keys = new Set(found.map((f) => f.key));
  return withoutWords(told, new Set(words.filter((w) => keys.has(plainCode(w)))));
}
