import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { happen } from './entering.ts';
import { noteOrder } from './ordering.ts';
import type { When } from './passages.ts';
import { earnedBy } from './scoring.ts';
import { wakeVisits } from './visits.ts';

/** Keeps an event as it happened. Answers its id; null where the person has been erased meanwhile: nothing is kept of them. */
export async function insertEvent(
  tx: Tx,
  ws: string,
  personId: string,
  name: string,
  at: number,
  payload: Record<string, unknown>,
  extensions?: Record<string, unknown>,
): Promise<string | null> {
  const id = newId();
  const found = await firstRow<{ order: boolean }>(
    tx,
    sql`with kept as (
          insert into events (workspace_id, person_id, id, name, occurred_at, payload, extensions)
          select workspace_id, id, ${id}::uuid, ${name}::text, ${at}::bigint, ${JSON.stringify(payload)}::jsonb, ${extensions ? JSON.stringify(extensions) : null}::jsonb from people where workspace_id = ${ws} and id = ${personId}
          returning 1), ${earnedBy(ws, personId, name, payload)}
        select w.money->>'event' = ${name}::text as "order" from kept, workspaces w where w.id = ${ws}`,
  );
  if (!found) return null;
  if (found.order) await noteOrder(tx, ws, { id, person: personId, at, payload });
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
  extensions?: Record<string, unknown>,
): Promise<void> {
  const id = await insertEvent(tx, ws, personId, name, when.at, payload, extensions);
  if (id === null) return;
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
