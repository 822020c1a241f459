import { sql } from 'drizzle-orm';
import { emailsOfEvent, isOneOff } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import { notFound, UserError } from '../app/errors.ts';
import type { Db, Executor, Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { hasSequence } from '../db/sequences.ts';
import { transact } from '../db/transact.ts';
import { loadVersion } from '../db/versions.ts';
import { openSequence } from './entering.ts';
import { keepInBin } from '../db/bin.ts';
import type { AddedByHand } from './taking-out.ts';
import { enterAll, type OpenSequence } from './passages.ts';

/** People let in within one transaction. */
const CHUNK = 500;

/** A sequence that people can be added to; refused by what it is. */
export async function mustBeOpen(db: Db, ws: string, sequence: string): Promise<OpenSequence> {
  const open = await openSequence(db, ws, sequence);
  if (!open && !(await hasSequence(db, ws, sequence))) throw notFound('sequence');
  if (!open) throw new UserError(409, 'not-live', 'People can be added to a sequence once it has been published.');
  await mustTake(db, ws, open);
  return open;
}

/** Refuses what takes in nobody but by its own trigger: their emails would say something that is not so. */
async function mustTake(db: Executor, ws: string, open: OpenSequence): Promise<void> {
  const { sequence } = (await loadVersion(db, ws, open.id, open.live_version)).run;
  const refuse = (message: string) => new UserError(409, 'not-by-hand', message);
  if (isOneOff(sequence)) throw refuse('A one-off send takes in people at its own moment, and nobody is added to it.');
  const form = await firstRow(db, sql`select 1 from forms where workspace_id = ${ws} and sequence_id = ${open.id}`);
  if (form) throw refuse('This sequence confirms addresses: only whoever fills in its form comes into it.');
  const names = emailsOfEvent(sequence).map((step) => `“${step.name}”`);
  if (names.length > 0)
    throw refuse(
      `Nobody can be added by hand: ${names.join(', ')} ${names.length === 1 ? 'speaks' : 'speak'} of what starts it, and whoever is added has done nothing of the kind. Say there for whom ${names.length === 1 ? 'it is' : 'they are'}, or give the fields fallbacks, and publish.`,
    );
}

/** Lets people in by hand, in the caller's transaction. Answers who is inside because of it. */
export async function enterByHand(
  tx: Tx,
  ws: string,
  sequence: string,
  people: readonly string[],
  now: number,
  cause = `hand:${newId()}`,
): Promise<ReadonlySet<string>> {
  const open = await openSequence(tx, ws, sequence);
  if (!open) return new Set();
  const entrants = people.map((person) => ({
    person,
    cause: { id: cause, event: null, entry: {}, told: { by: 'hand' } },
    at: now,
  }));
  return enterAll(tx, ws, open, entrants, now);
}

/**
 * Adds people to a sequence by hand, as far as its rules let them. Answers how many are inside because of it, and under which id
 * that can be taken back for as long as they have got nothing; null where nobody came in.
 */
export async function enterMany(
  db: Db,
  ws: string,
  sequence: string,
  people: readonly string[],
  now: number,
): Promise<{ entered: number; undo: string | null }> {
  await mustBeOpen(db, ws, sequence);
  const cause = `hand:${newId()}`;
  const inside: string[] = [];
  for (let i = 0; i < people.length; i += CHUNK)
    inside.push(...(await transact(db, (tx) => enterByHand(tx, ws, sequence, people.slice(i, i + CHUNK), now, cause))));
  if (inside.length === 0) return { entered: 0, undo: null };
  const added: AddedByHand = { sequence, cause, people: inside };
  return { entered: inside.length, undo: await keepInBin(db, ws, 'entered', added) };
}
