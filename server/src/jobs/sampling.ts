import { sql, type SQL } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { readTallies, sumOf } from '../db/tallies.ts';

/** So many people are each led on; of more, one in so many stands for the others. */
const LED_ON = 700;

// The end of a UUIDv7 is random (RFC 9562, 5.7), so it draws a lot that is the same wherever one asks; and since lots are powers
// of two, whoever is among the fewer is among the more.

/** One in how many of `people` is led on, 2^16 at most: 1 while all of them can be. */
export const oneIn = (people: number): number => {
  let n = 1;
  while (people > LED_ON * n && n < 65_536) n *= 2;
  return n;
};

/** One in how many is led on of those inside the sequences of a workspace, and of all people where a send to everybody is ahead. */
export async function lotsOf(db: Executor, ws: string): Promise<{ inside: number; everybody: number }> {
  const inside = sumOf(await readTallies(db, ws, { whats: ['inside'] }), 'inside');
  const all = await firstRow<{ n: number }>(db, sql`select count(*) as n from people where workspace_id = ${ws}`);
  return { inside: oneIn(inside), everybody: oneIn(all?.n ?? 0) };
}

/** Whether somebody's id is among one in `n`. */
export const chosen = (person: string, n: number): boolean => (Number.parseInt(person.slice(-4), 16) & (n - 1)) === 0;

/** The same as a condition on a column of ids, after others; nothing where everybody is chosen. */
export const andChosen = (column: SQL, n: number): SQL =>
  n === 1
    ? sql``
    : sql`and (get_byte(uuid_send(${column}), 14) * 256 + get_byte(uuid_send(${column}), 15)) & ${n - 1} = 0`;
