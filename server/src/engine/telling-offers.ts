import { sql } from 'drizzle-orm';
import { ISSUED_EVENT, SEEN_EVENT } from '@ascenso/core';
import type { Connection, Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { storeInternalEvent } from '../people/internal-events.ts';
import { attempt, setAside } from './setting-aside.ts';

const BATCH = 200;

/** Of what somebody was given, more has come about than was told: words of the index `offer_grants_telling`. */
export const UNTOLD = sql`told < case when seen_at is not null then 2 when issued_at is not null then 1 else 0 end`;

interface Grant {
  workspace_id: string;
  person_id: string;
  offer_id: string;
  issued_at: number;
  seen_at: number | null;
  code: string | null;
  name: string;
  /** What had been told before. */
  before: number;
}

/** Tells something of what somebody was given. Where that cannot be done it is shown, and not tried again: nobody is mailed by it. */
export async function tellOf(
  tx: Tx,
  { workspace_id: w, person_id: person, offer_id: offer }: Pick<Grant, 'workspace_id' | 'person_id' | 'offer_id'>,
  now: number,
  tell: (part: Tx) => Promise<void>,
): Promise<void> {
  const error = await attempt(tx, tell);
  if (error) await setAside(tx, { w, kind: 'offer', item: `${person} ${offer}`, sequence: null, person }, error, now);
}

/** What an event of an offer says of it. */
export const offerPayload = ({ offer_id, name, code }: Pick<Grant, 'offer_id' | 'name' | 'code'>) => ({
  offer: offer_id,
  name,
  code: code ?? '',
});

const tellStanding = (tx: Tx, g: Grant, now: number): Promise<void> =>
  tellOf(tx, g, now, async (part) => {
    const payload = offerPayload(g);
    if (g.before < 1) await storeInternalEvent(part, g.workspace_id, g.person_id, ISSUED_EVENT, payload, g.issued_at);
    if (g.seen_at !== null)
      await storeInternalEvent(
        part,
        g.workspace_id,
        g.person_id,
        SEEN_EVENT,
        payload,
        Math.max(g.seen_at, g.issued_at),
      );
  });

/**
 * Tells that an offer is somebody's, and that they have seen it, as events of their own: beside the sending, which has more
 * urgent things to do. Any number of processes may. Answers how many were told.
 */
export async function tellRound(connection: Connection, now: number): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const due = await rows<Grant>(
      tx,
      sql`with due as (
            select workspace_id, person_id, offer_id, told from offer_grants
            where ${UNTOLD} and issued_at <= ${now} order by issued_at, person_id, offer_id limit ${BATCH} for update skip locked),
          told as (
          update offer_grants g set told = case when g.seen_at is not null then 2 else 1 end
          from due join offers o on o.workspace_id = due.workspace_id and o.id = due.offer_id
          where g.workspace_id = due.workspace_id and g.person_id = due.person_id and g.offer_id = due.offer_id
          returning g.workspace_id, g.person_id, g.offer_id, g.issued_at, g.seen_at, g.code, o.doc->>'name' as name, due.told as before)
          select * from told order by issued_at, person_id, offer_id`,
    );
    for (const g of due) await tellStanding(tx, g, now);
    return due.length;
  });
}
