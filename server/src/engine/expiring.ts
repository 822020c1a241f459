import { sql } from 'drizzle-orm';
import { EXPIRED_EVENT, MINUTE } from '@ascenso/core';
import type { Connection, Tx } from '../db/connect.ts';
import { rows } from '../db/rows.ts';
import { storeInternalEvent } from '../people/internal-events.ts';
import { offerPayload, tellOf } from './telling-offers.ts';

const BATCH = 200;
/** Ends are looked for on this grid: nobody is mailed by them, they are only told. */
const GRID = 15 * MINUTE;

/** When ends are looked for that a first one falls before, epoch ms. */
export const gridAfter = (at: number): number => Math.ceil(at / GRID) * GRID;

interface Ended {
  workspace_id: string;
  person_id: string;
  offer_id: string;
  closes_at: number;
  code: string | null;
  name: string;
}

const tellEnd = (tx: Tx, e: Ended, now: number): Promise<void> =>
  tellOf(tx, e, now, (part) =>
    storeInternalEvent(part, e.workspace_id, e.person_id, EXPIRED_EVENT, offerPayload(e), e.closes_at),
  );

/** Tells of offers that have closed unused, as events of their own. Any number of processes may. Answers how many. */
export async function expireRound(connection: Connection, now: number): Promise<number> {
  return connection.db.transaction(async (tx) => {
    const ended = await rows<Ended>(
      tx,
      sql`with due as (
            select workspace_id, person_id, offer_id from offer_grants
            where used_at is null and expired_at is null and closes_at is not null and issued_at is not null and closes_at <= ${Math.floor(now / GRID) * GRID}
            order by closes_at, person_id, offer_id limit ${BATCH} for update skip locked),
          ended as (
          update offer_grants g set expired_at = ${now} from due join offers o on o.workspace_id = due.workspace_id and o.id = due.offer_id
          where g.workspace_id = due.workspace_id and g.person_id = due.person_id and g.offer_id = due.offer_id
          returning g.workspace_id, g.person_id, g.offer_id, g.closes_at, g.code, o.doc->>'name' as name)
          select * from ended order by closes_at, person_id, offer_id`,
    );
    for (const e of ended) await tellEnd(tx, e, now);
    return ended.length;
  });
}
