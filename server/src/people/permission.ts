import { sql } from 'drizzle-orm';
import { RESUBSCRIBED_EVENT } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { storeInternalEvent } from './internal-events.ts';
import { wakeVisits } from './visits.ts';

// Whether a person may be mailed at all. Each end stands by itself (unsubscribed, bounced, complained), so that the end of
// one leaves the others; which one counts is a generated column.

/** Stops all but service mail. Kept beside a bounce: should the address work again one day, they stay unsubscribed. */
export async function unsubscribe(tx: Tx, ws: string, personId: string, at: number): Promise<void> {
  const changed = await firstRow(
    tx,
    sql`update people set unsubscribed_at = ${at} where workspace_id = ${ws} and id = ${personId} and unsubscribed_at is null returning id`,
  );
  if (!changed) return;
  await storeInternalEvent(tx, ws, personId, 'unsubscribed', {}, at);
  await wakeVisits(tx, ws, personId, at);
}

/** The address does not take mail, and will not: nothing more is sent to it, service mail included. */
export async function bounced(tx: Tx, ws: string, personId: string, at: number): Promise<void> {
  await tx.execute(
    sql`update people set bounced_at = coalesce(bounced_at, ${at}) where workspace_id = ${ws} and id = ${personId}`,
  );
  await wakeVisits(tx, ws, personId, at);
}

/**
 * The way back: whoever confirms a list again, after mail has ended for them, gets its mail again. Of the other lists they leave those that they were on
 * before, since they asked for one only. A bounce is over when the owner of the address confirms; a complaint stays.
 * Answers whether mail had been stopped.
 */
export async function openMailAgain(
  tx: Tx,
  ws: string,
  personId: string,
  listId: string,
  now: number,
  consent: { by: { kind: 'owner' | 'team' | 'visit' }; at: number },
): Promise<boolean> {
  const before = await firstRow<{ unsubscribed_at: number | null; bounced_at: number | null; list: string }>(
    tx,
    sql`select p.unsubscribed_at, p.bounced_at, (select name from lists l where l.workspace_id = p.workspace_id and l.id = ${listId}) as list
        from people p where p.workspace_id = ${ws} and p.id = ${personId} for update of p`,
  );
  if (!before) return false;
  const wants = before.unsubscribed_at !== null && consent.at >= before.unsubscribed_at;
  const proved = consent.by.kind === 'owner' && before.bounced_at !== null && consent.at >= before.bounced_at;
  if (!wants && !proved) return false;
  await tx.execute(
    sql`update people set unsubscribed_at = case when ${wants} then null else unsubscribed_at end, bounced_at = case when ${proved} then null else bounced_at end where workspace_id = ${ws} and id = ${personId}`,
  );
  if (wants)
    await tx.execute(
      sql`update memberships set state = 'left', at = ${now}, by_visit = null where workspace_id = ${ws} and person_id = ${personId} and list_id <> ${listId} and state = 'confirmed' and at <= ${before.unsubscribed_at}`,
    );
  await storeInternalEvent(tx, ws, personId, RESUBSCRIBED_EVENT, { list: before.list, by: consent.by.kind }, now);
  return true;
}
