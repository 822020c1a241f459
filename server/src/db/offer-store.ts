import { and, eq, isNull, ne, sql } from 'drizzle-orm';
import type { Offer, Sequence } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from './connect.ts';
import { rows } from './rows.ts';
import { offerCodes, offerGrants, offers } from './schema/index.ts';
import { randomBytes } from '../app/chance.ts';

const one = (ws: string, id: string) => and(eq(offers.workspaceId, ws), eq(offers.id, id));

export async function offerDoc(db: Executor, ws: string, id: string): Promise<Offer | undefined> {
  const [row] = await db
    .select({ doc: offers.doc })
    .from(offers)
    .where(and(eq(offers.workspaceId, ws), sql`${offers.id}::text = ${id}`));
  return row?.doc;
}

/**
 * Whoever writes a code that everybody gets, or codes of a file, comes after whoever is at it: the two stand in different
 * tables, so no index can keep one from being the other.
 */
export async function lockCodes(tx: Tx, ws: string): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(hashtextextended(${`codes ${ws}`}, 0))`);
}

/** The other offers of a workspace. */
export async function otherOffers(db: Executor, ws: string, self: string | null): Promise<Offer[]> {
  const found = await db
    .select({ doc: offers.doc })
    .from(offers)
    .where(and(eq(offers.workspaceId, ws), self === null ? undefined : ne(offers.id, self)));
  return found.map((f) => f.doc);
}

/** Name of an offer that has one of these as a unique code, by key. */
export async function ownerOfCode(db: Executor, ws: string, keys: readonly string[]): Promise<string | undefined> {
  const [row] = await rows<{ name: string }>(
    db,
    sql`select o.doc->>'name' as name from offer_codes c join offers o on o.workspace_id = c.workspace_id and o.id = c.offer_id where c.workspace_id = ${ws} and c.key = any(${sql.param(keys)}::text[])`,
  );
  return row?.name;
}

export async function addOffer(db: Executor, ws: string, doc: Offer, createdAt: number): Promise<string> {
  const id = newId();
  await db.insert(offers).values({ workspaceId: ws, id, doc, secret: randomBytes(32), createdAt });
  return id;
}

/** `newPattern` says that codes made ahead to the old one are nobody's yet, and will be nobody's. */
export async function changeOffer(tx: Tx, ws: string, id: string, doc: Offer, newPattern: boolean): Promise<void> {
  await tx.update(offers).set({ doc }).where(one(ws, id));
  if (newPattern)
    await tx
      .delete(offerCodes)
      .where(
        and(
          eq(offerCodes.workspaceId, ws),
          eq(offerCodes.offerId, id),
          eq(offerCodes.made, true),
          isNull(offerCodes.personId),
        ),
      );
}

/** Whether anybody has been given an offer. */
export async function isGiven(db: Executor, ws: string, id: string): Promise<boolean> {
  const found = await db
    .select({ id: offerGrants.offerId })
    .from(offerGrants)
    .where(and(eq(offerGrants.workspaceId, ws), eq(offerGrants.offerId, id)))
    .limit(1);
  return found.length > 0;
}

export async function deleteOffer(tx: Tx, ws: string, id: string): Promise<void> {
  await tx.delete(offerCodes).where(and(eq(offerCodes.workspaceId, ws), eq(offerCodes.offerId, id)));
  await tx.delete(offers).where(one(ws, id));
}

/** Versions that people can still get emails of: the live ones, and those that somebody is inside of. */
export const runningVersions = (
  db: Executor,
  ws: string,
): Promise<{ sequence: string; name: string; doc: Sequence }[]> =>
  rows(
    db,
    sql`select s.id as sequence, s.name, v.doc from sequences s join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id
        where s.workspace_id = ${ws} and s.status <> 'archived' and (v.number = s.live_version or exists (
          select 1 from visits i where i.workspace_id = s.workspace_id and i.sequence_id = s.id and i.version = v.number and i.status = 'active'))`,
  );

export interface IssuedCode {
  code: string;
  email: string;
  issued_at: number;
  closes_at: number | null;
  used_at: number | null;
  person_id: string;
}

/** Codes that people have been given, in order of persons, after one of them. */
export const issuedAfter = (
  db: Executor,
  ws: string,
  offer: string,
  after: string,
  limit: number,
): Promise<IssuedCode[]> =>
  rows(
    db,
    sql`select g.code, p.email, g.issued_at, g.closes_at, g.used_at, g.person_id from offer_grants g join people p on p.workspace_id = g.workspace_id and p.id = g.person_id
        where g.workspace_id = ${ws} and g.offer_id = ${offer} and g.issued_at is not null and g.code is not null and g.person_id > ${after} order by g.person_id limit ${limit}`,
  );
