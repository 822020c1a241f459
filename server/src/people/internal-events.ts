import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { events } from '../db/schema/index.ts';
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
  await tx.insert(events).values({ workspaceId: ws, personId, id, name, occurredAt: at, payload });
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
