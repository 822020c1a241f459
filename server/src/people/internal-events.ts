import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { happen, type When } from './entering.ts';
import { wakeVisits } from './visits.ts';

/** Keeps an event as it happened. Answers its id. */
export async function insertEvent(
  tx: Tx,
  ws: string,
  personId: string,
  name: string,
  at: number,
  payload: Record<string, unknown>,
): Promise<string> {
  const id = newId();
  await tx.execute(
    sql`insert into events (workspace_id, person_id, id, name, occurred_at, payload) values (${ws}, ${personId}, ${id}, ${name}, ${at}, ${JSON.stringify(payload)}::jsonb)`,
  );
  return id;
}

/** An event with all that follows from it: whoever waits is looked at, and it may start sequences. */
export async function eventHappened(
  tx: Tx,
  ws: string,
  personId: string,
  name: string,
  payload: Record<string, unknown>,
  when: When,
): Promise<void> {
  const id = await insertEvent(tx, ws, personId, name, when.at, payload);
  await wakeVisits(tx, ws, personId, when.now);
  await happen(tx, ws, personId, { kind: 'event', event: name, payload }, id, when);
}

/** Something that happened here: kept as an event, so that conditions can ask for it. */
export const storeInternalEvent = (
  tx: Tx,
  ws: string,
  personId: string,
  name: string,
  payload: Record<string, unknown>,
  at: number,
): Promise<void> => eventHappened(tx, ws, personId, name, payload, { at, now: at });
