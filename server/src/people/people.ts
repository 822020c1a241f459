import { and, eq, ne, sql } from 'drizzle-orm';
import type { MailStatus, Value } from '@ascenso/core';
import { UserError } from '../app/errors.ts';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { people } from '../db/schema/index.ts';
import { datesSet } from './dates-set.ts';
import { freeEnds, takeEndsOver } from './erasing.ts';
import { wakeVisits } from './visits.ts';

/** The person with an address, added when there is none. */
export async function personByEmail(tx: Tx, ws: string, email: string, now: number): Promise<string> {
  const id = newId();
  const [made] = await tx
    .insert(people)
    .values({ workspaceId: ws, id, email, attributes: {}, createdAt: now })
    // Written anew as it is, so that one that is there is answered, and locked, as a new one.
    .onConflictDoUpdate({ target: [people.workspaceId, people.email], set: { email } })
    .returning({ id: people.id });
  if (!made || made.id === id) await takeEndsOver(tx, ws, id, email);
  return made?.id ?? id;
}

/** A new person; undefined where there is one with that address. */
export async function addPerson(
  tx: Tx,
  ws: string,
  person: { email: string; attributes: Record<string, Value>; zone: string | null },
  now: number,
): Promise<string | undefined> {
  const { email, attributes, zone } = person;
  const [made] = await tx
    .insert(people)
    .values({ workspaceId: ws, id: newId(), email, attributes, zone, createdAt: now })
    .onConflictDoNothing()
    .returning({ id: people.id });
  if (!made) return undefined;
  await takeEndsOver(tx, ws, made.id, email);
  await datesSet(tx, ws, Object.keys(attributes), now);
  return made.id;
}

/** Id of the person with an address. */
export async function personCalled(db: Executor, ws: string, email: string): Promise<string | undefined> {
  const [found] = await db
    .select({ id: people.id })
    .from(people)
    .where(and(eq(people.workspaceId, ws), eq(people.email, email)));
  return found?.id;
}

/** Whether mail may go to a person: "ok", or what has ended it. */
export async function mailStatusOf(tx: Tx, ws: string, id: string): Promise<MailStatus | null> {
  const [person] = await tx.select({ status: people.mailStatus }).from(people).where(one(ws, id));
  return person?.status ?? null;
}

const one = (ws: string, id: string) => and(eq(people.workspaceId, ws), eq(people.id, id));

/** Gives a person another address: what bounced was the old one. */
export async function changeAddress(tx: Tx, ws: string, personId: string, email: string): Promise<void> {
  const taken = await tx
    .select({ id: people.id })
    .from(people)
    .where(and(eq(people.workspaceId, ws), eq(people.email, email), ne(people.id, personId)));
  if (taken.length > 0) throw new UserError(409, 'exists', 'There is already a person with this address.', 'email');
  await tx
    .update(people)
    .set({ email, bouncedAt: null })
    .where(and(one(ws, personId), ne(people.email, email)));
  await freeEnds(tx, ws, personId);
  await takeEndsOver(tx, ws, personId, email);
}

export async function changeZone(
  tx: Tx,
  ws: string,
  personId: string,
  zone: string | null,
  now: number,
): Promise<void> {
  const changed = await tx
    .update(people)
    .set({ zone })
    .where(and(one(ws, personId), sql`${people.zone} is distinct from ${zone}`))
    .returning({ id: people.id });
  if (changed.length > 0) await datesSet(tx, ws, 'zone', now);
}

/** Sets the points of a person. */
export async function changePoints(tx: Tx, ws: string, personId: string, points: number, now: number): Promise<void> {
  await tx.update(people).set({ points }).where(one(ws, personId));
  await wakeVisits(tx, ws, personId, now);
}
