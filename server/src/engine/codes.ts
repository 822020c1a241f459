import { createHmac } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { codeAt, plainCode, spaceOf, type CodePattern, type Offer, type Scramble } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { batch, firstRow, rows } from '../db/rows.ts';

/** Codes made to a pattern at once. */
const MADE_AT_ONCE = 2000;

/** The keyed function behind the codes of an offer: the first half of an HMAC of round and value. */
const scrambleBy = (secret: Buffer): Scramble => {
  const input = Buffer.alloc(17);
  return (round, value) => {
    input.writeUInt8(round, 0);
    input.writeBigUInt64BE(value & 0xffffffffffffffffn, 1);
    input.writeBigUInt64BE(value >> 64n, 9);
    return createHmac('sha256', secret).update(input).digest().readBigUInt64BE(0);
  };
};

/** Makes more codes of a pattern. The counter is moved under the offer's row lock, so no number is used twice. */
async function makeCodes(tx: Tx, ws: string, offerId: string, pattern: CodePattern, count: number): Promise<void> {
  const row = await firstRow<{ made: number; secret: Buffer }>(
    tx,
    sql`update offers set made = made + ${count} where workspace_id = ${ws} and id = ${offerId} returning made, secret`,
  );
  if (!row) return;
  const scramble = scrambleBy(row.secret);
  const space = spaceOf(pattern);
  const list: { key: string; code: string; n: number }[] = [];
  for (let n = row.made - count; n < row.made; n++) {
    // A space that has been used up has no further codes: the offer runs out like a pool.
    if (BigInt(n) >= space) break;
    const code = codeAt(pattern, BigInt(n), scramble);
    list.push({ key: plainCode(code), code, n });
  }
  // After a change of pattern a new code can be one that was made before; then the old one stands.
  await tx.execute(sql`
    insert into offer_codes (workspace_id, key, offer_id, code, made, n)
    select ${ws}, c.key, ${offerId}, c.code, true, c.n from jsonb_to_recordset(${batch(list)}) as c(key text, code text, n bigint)
    on conflict do nothing`);
}

/** A free code, held by the transaction that locked it. */
export interface HeldCode {
  key: string;
  code: string;
}

const lockFree = (tx: Tx, ws: string, offerId: string, made: boolean, count: number, waits: boolean) =>
  rows<HeldCode>(
    tx,
    sql`select key, code from offer_codes where workspace_id = ${ws} and offer_id = ${offerId} and made = ${made} and person_id is null
        order by n limit ${count} for update ${sql.raw(waits ? '' : 'skip locked')}`,
  );

/**
 * Locks so many free codes of an offer for the caller's transaction; fewer where no more are left. What is not taken is
 * free again at its end. No two transactions ever hold one code.
 */
export async function holdCodes(
  tx: Tx,
  ws: string,
  offerId: string,
  { codes }: Offer,
  count: number,
): Promise<HeldCode[]> {
  const free = (waits: boolean) => lockFree(tx, ws, offerId, codes.kind === 'made', count, waits);
  const held = await free(false);
  if (held.length >= count) return held;
  if (codes.kind === 'made') {
    await makeCodes(tx, ws, offerId, codes.pattern, Math.max(MADE_AT_ONCE, count));
    return free(false);
  }
  // Others may hold the last ones and not need them all: whether the pool is empty is known when they are done.
  return free(true);
}
