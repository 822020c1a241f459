import { and, eq, isNull, lte, ne } from 'drizzle-orm';
import { RESUBSCRIBED_EVENT } from '@ascenso/core';
import type { Tx } from '../db/connect.ts';
import { lists, memberships, people } from '../db/schema/index.ts';
import { noteConsent, type ConsentSource } from './consent.ts';
import { storeInternalEvent } from './internal-events.ts';
import { wakeVisits } from './visits.ts';

// Whether a person may be mailed at all. Each end stands by itself (unsubscribed, bounced, complained), so that the end of
// one leaves the others; which one counts is a generated column.

const one = (ws: string, id: string) => and(eq(people.workspaceId, ws), eq(people.id, id));

/** Stops all but service mail. Kept beside a bounce: should the address work again one day, they stay unsubscribed. */
export async function unsubscribe(
  tx: Tx,
  ws: string,
  personId: string,
  at: number,
  source: ConsentSource,
  where: string | null = null,
): Promise<void> {
  const changed = await tx
    .update(people)
    .set({ unsubscribedAt: at })
    .where(and(one(ws, personId), isNull(people.unsubscribedAt)))
    .returning({ id: people.id });
  if (changed.length === 0) return;
  await noteConsent(tx, ws, personId, { list: null, what: 'left', at, source, where });
  await storeInternalEvent(tx, ws, personId, 'unsubscribed', {}, at);
  await wakeVisits(tx, ws, personId, at);
}

/** The address does not take mail, and will not: nothing more is sent to it, service mail included. */
export async function bounced(tx: Tx, ws: string, personId: string, at: number): Promise<void> {
  await tx
    .update(people)
    .set({ bouncedAt: at })
    .where(and(one(ws, personId), isNull(people.bouncedAt)));
  await wakeVisits(tx, ws, personId, at);
}

/** They called an email spam: all marketing to them ends at once, and does not begin again by itself. */
export async function complained(
  tx: Tx,
  ws: string,
  personId: string,
  at: number,
  source: ConsentSource,
): Promise<void> {
  const changed = await tx
    .update(people)
    .set({ complainedAt: at })
    .where(and(one(ws, personId), isNull(people.complainedAt)))
    .returning({ id: people.id });
  if (changed.length === 0) return;
  await noteConsent(tx, ws, personId, { list: null, what: 'left', at, source });
  await storeInternalEvent(tx, ws, personId, 'complained', {}, at);
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
  const [before] = await tx
    .select({ unsubscribedAt: people.unsubscribedAt, bouncedAt: people.bouncedAt })
    .from(people)
    .where(one(ws, personId))
    .for('update');
  if (!before) return false;
  const wants = before.unsubscribedAt !== null && consent.at >= before.unsubscribedAt;
  const proved = consent.by.kind === 'owner' && before.bouncedAt !== null && consent.at >= before.bouncedAt;
  if (!wants && !proved) return false;
  await tx
    .update(people)
    .set({ ...(wants ? { unsubscribedAt: null } : {}), ...(proved ? { bouncedAt: null } : {}) })
    .where(one(ws, personId));
  if (wants && before.unsubscribedAt !== null)
    await tx
      .update(memberships)
      .set({ state: 'left', at: now, byVisit: null })
      .where(
        and(
          eq(memberships.workspaceId, ws),
          eq(memberships.personId, personId),
          ne(memberships.listId, listId),
          eq(memberships.state, 'confirmed'),
          lte(memberships.at, before.unsubscribedAt),
        ),
      );
  const [list] = await tx
    .select({ name: lists.name })
    .from(lists)
    .where(and(eq(lists.workspaceId, ws), eq(lists.id, listId)));
  await storeInternalEvent(tx, ws, personId, RESUBSCRIBED_EVENT, { list: list?.name ?? '', by: consent.by.kind }, now);
  return true;
}
