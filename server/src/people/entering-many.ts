import { newId } from '../app/ids.ts';
import { notFound, UserError } from '../app/errors.ts';
import type { Db, Tx } from '../db/connect.ts';
import { hasSequence } from '../db/sequences.ts';
import { transact } from '../db/transact.ts';
import { openSequence } from './entering.ts';
import { enterAll, type OpenSequence } from './passages.ts';

/** People let in within one transaction. */
const CHUNK = 500;

/** A sequence that people can be added to; refused by what it is. */
export async function mustBeOpen(db: Db, ws: string, sequence: string): Promise<OpenSequence> {
  const open = await openSequence(db, ws, sequence);
  if (!open && !(await hasSequence(db, ws, sequence))) throw notFound('sequence');
  if (!open) throw new UserError(409, 'not-live', 'People can be added to a sequence once it has been published.');
  return open;
}

/** Lets people in by hand, in the caller's transaction. Answers how many are inside because of it. */
export async function enterByHand(
  tx: Tx,
  ws: string,
  sequence: string,
  people: readonly string[],
  now: number,
): Promise<number> {
  const open = await openSequence(tx, ws, sequence);
  if (!open) return 0;
  const entrants = people.map((person) => ({
    person,
    cause: { id: `hand:${newId()}`, event: null, entry: {}, told: { by: 'hand' } },
    at: now,
  }));
  return (await enterAll(tx, ws, open, entrants, now)).size;
}

/** Adds people to a sequence by hand, as far as its rules let them. Answers how many are inside because of it. */
export async function enterMany(
  db: Db,
  ws: string,
  sequence: string,
  people: readonly string[],
  now: number,
): Promise<number> {
  await mustBeOpen(db, ws, sequence);
  let entered = 0;
  for (let i = 0; i < people.length; i += CHUNK)
    entered += await transact(db, (tx) => enterByHand(tx, ws, sequence, people.slice(i, i + CHUNK), now));
  return entered;
}
