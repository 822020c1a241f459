import { and, eq, sql } from 'drizzle-orm';
import type { CodeAnswer } from '@ascenso/contracts';
import {
  USED_EVENT,
  fitsPattern,
  instantOfWall,
  momentWords,
  offerState,
  placeWords,
  plainCode,
  sharedKeys,
  toMajor,
  zoneOf,
  offerText,
  type Discount,
  type Given,
  type Offer,
} from '@ascenso/core';
import { UserError } from '../app/errors.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { offerGrants, offerUses, people } from '../db/schema/index.ts';
import { storeInternalEvent } from './internal-events.ts';

interface Found {
  id: string;
  doc: Offer;
  /** Everybody has the same code. */
  shared: boolean;
  /** Null for a shared code that was asked for without an address. */
  person: { id: string; email: string; zone: string; language: string } | null;
  given: Given | null;
}

const PERSON = sql`p.id as person_id, p.email, coalesce(p.zone, w.zone) as zone, coalesce(p.attributes->>'language', '') as language,
  g.opened_at, g.closes_at, g.code, g.used_at, g.discount`;
interface FoundRow {
  id: string;
  doc: Offer;
  person_id: string | null;
  email: string | null;
  zone: string;
  language: string;
  opened_at: number | null;
  closes_at: number | null;
  code: string | null;
  used_at: number | null;
  discount: Discount | null;
}

const foundOf = (r: FoundRow, shared: boolean): Found => ({
  id: r.id,
  doc: r.doc,
  shared,
  person: r.person_id && r.email ? { id: r.person_id, email: r.email, zone: r.zone, language: r.language } : null,
  given:
    r.opened_at === null || r.discount === null
      ? null
      : { openedAt: r.opened_at, closesAt: r.closes_at, code: r.code, usedAt: r.used_at, discount: r.discount },
});

/** The offer that a code belongs to, and what the person has of it. Undefined where there is no such code. */
async function findCode(
  db: Executor,
  ws: string,
  typed: string,
  email: string | undefined,
): Promise<Found | undefined> {
  const key = plainCode(typed);
  const unique = await firstRow<FoundRow>(
    db,
    sql`select o.id, o.doc, ${PERSON} from offer_codes c join offers o on o.workspace_id = c.workspace_id and o.id = c.offer_id
        join workspaces w on w.id = c.workspace_id
        left join people p on p.workspace_id = c.workspace_id and p.id = c.person_id
        left join offer_grants g on g.workspace_id = c.workspace_id and g.person_id = c.person_id and g.offer_id = c.offer_id and g.code_key = c.key
        where c.workspace_id = ${ws} and c.key = ${key}`,
  );
  if (unique) return foundOf(unique, false);
  const shared = await rows<FoundRow>(
    db,
    sql`select o.id, o.doc, ${PERSON} from offers o join workspaces w on w.id = o.workspace_id
        left join people p on p.workspace_id = o.workspace_id and p.email = ${email ?? ''}
        left join offer_grants g on g.workspace_id = o.workspace_id and g.person_id = p.id and g.offer_id = o.id
        where o.workspace_id = ${ws} and (o.doc->'codes'->>'kind' = 'shared' or o.doc->'empty'->>'kind' = 'shared' or g.code_key = ${key})`,
  );
  // An offer can have another code by now: whoever was given the one before keeps it.
  const row =
    shared.find((r) => r.code !== null && plainCode(r.code) === key) ??
    shared.find(({ doc }) => sharedKeys(doc).includes(key));
  return row && foundOf(row, true);
}

/** Whether a code is good, for whom and until when. Changes nothing. */
export async function lookUp(
  db: Executor,
  ws: string,
  typed: string,
  email: string | undefined,
  now: number,
): Promise<CodeAnswer & { person: string | null }> {
  const found = await findCode(db, ws, typed, email);
  const bad = (reason: NonNullable<CodeAnswer['reason']>, message: string): CodeAnswer & { person: string | null } => ({
    code: typed,
    good: false,
    reason,
    message,
    person: found?.person?.id ?? null,
    offer: found ? offerOf(found) : null,
    for: null,
    until: null,
  });
  if (!found) {
    const patterns = await rows<{ doc: Offer }>(
      db,
      sql`select doc from offers where workspace_id = ${ws} and doc->'codes'->>'kind' = 'made'`,
    );
    const near = patterns.some(
      ({ doc: { codes } }) =>
        codes.kind === 'made' &&
        plainCode(typed).startsWith(plainCode(codes.pattern.prefix) || '\0') &&
        !fitsPattern(codes.pattern, typed),
    );
    return near
      ? bad('mistyped', 'That is no whole code: look at it again, letter by letter.')
      : bad('unknown', 'There is no such code.');
  }
  const { doc, person, given, shared } = found;
  // A code that nobody has been given is told like one that does not exist.
  if (!shared && !given) return { ...bad('unknown', 'There is no such code.'), offer: null };
  if (!shared && email !== undefined && person?.email !== email)
    return bad('not-given', 'This code was given to somebody else.');
  const fixed = doc.deadline.kind === 'fixed' ? instantOfWall(doc.deadline.wall, zoneOf(doc.deadline.zone)) : null;
  if (shared && !given && doc.deadline.kind !== 'never' && fixed === null)
    return email === undefined
      ? bad('email-needed', 'Ask with the address of whoever orders: each person has a deadline of their own.')
      : bad('not-given', 'This offer was not made to this address.');
  const state = given ? offerState(given, now) : fixed !== null && fixed <= now ? 'closed' : 'open';
  const closes = given ? given.closesAt : fixed;
  if (state === 'used') return bad('used', 'This code has been used.');
  if (state !== 'open') {
    const zone = person?.zone ?? 'UTC';
    return bad(
      'closed',
      closes === null
        ? 'This offer has closed.'
        : `This offer closed on ${momentWords(zoneOf(zone), closes)} in ${placeWords(zone)}.`,
    );
  }
  return {
    code: given?.code ?? typed,
    good: true,
    reason: null,
    message: `${offerOf(found).words}.`,
    person: person?.id ?? null,
    offer: offerOf(found),
    for: shared ? null : (person?.email ?? null),
    until: closes === null ? null : new Date(closes).toISOString(),
  };
}

/** What this person was promised, as they read it; where nobody is known yet, what the offer gives now. */
function offerOf({ id, doc, given, person }: Found): NonNullable<CodeAnswer['offer']> {
  const discount = given?.discount ?? doc.discount;
  return { id, name: doc.name, words: offerText({ ...doc, discount }, person?.language ?? ''), discount };
}

const ofOffer = (ws: string, offer: string) => and(eq(offerUses.workspaceId, ws), eq(offerUses.offerId, offer));

export interface Redemption {
  order: string;
  email?: string | undefined;
  /** Minor units. */
  total: number;
  currency: string;
}

/**
 * Uses a code in an order, once: the same order again changes nothing and answers the same. Refused for a code that is
 * not good; `at` is the business clock, epoch ms.
 */
export async function redeem(
  tx: Tx,
  ws: string,
  typed: string,
  use: Redemption,
  at: number,
): Promise<{ repeated: boolean; answer: CodeAnswer }> {
  const { person, ...answer } = await lookUp(tx, ws, typed, use.email, at);
  // The person's lock decides between two orders at once, and between an order and an email that makes the offer.
  if (person)
    await tx
      .select({ id: people.id })
      .from(people)
      .where(and(eq(people.workspaceId, ws), eq(people.id, person)))
      .for('update');
  const [known] = answer.offer
    ? await tx
        .select({
          code: offerUses.code,
          cancelledAt: offerUses.cancelledAt,
          total: offerUses.total,
          currency: offerUses.currency,
          answer: offerUses.answer,
        })
        .from(offerUses)
        .where(and(ofOffer(ws, answer.offer.id), eq(offerUses.orderId, use.order)))
    : [];
  if (known && plainCode(known.code) !== plainCode(typed))
    throw new UserError(409, 'order-known', `order: “${use.order}” used the code ${known.code} already.`, 'order');
  if (known && known.cancelledAt === null) {
    if (known.total !== use.total || known.currency !== use.currency)
      throw new UserError(
        409,
        'order-known',
        `total: “${use.order}” came to ${toMajor(known.total, known.currency)} ${known.currency} before. Take it back first if it has changed.`,
        'total',
      );
    const first = known.answer ?? { ...answer, good: true, reason: null, message: 'Used in this order.' };
    return { repeated: true, answer: first };
  }
  // Asked again under the lock: of two orders at once only the first finds it good.
  const { person: _, ...now } = await lookUp(tx, ws, typed, use.email, at);
  if (!now.good || !now.offer) throw new UserError(409, now.reason ?? 'unknown', now.message, 'code');
  const used = { total: use.total, currency: use.currency, at, answer: now };
  await tx
    .insert(offerUses)
    .values({
      workspaceId: ws,
      offerId: now.offer.id,
      orderId: use.order,
      personId: person,
      code: now.code,
      ...used,
    })
    .onConflictDoUpdate({
      target: [offerUses.workspaceId, offerUses.offerId, offerUses.orderId],
      set: { ...used, cancelledAt: null },
    });
  if (person) {
    await tx
      .update(offerGrants)
      .set({ usedAt: at })
      .where(
        and(eq(offerGrants.workspaceId, ws), eq(offerGrants.personId, person), eq(offerGrants.offerId, now.offer.id)),
      );
    await storeInternalEvent(
      tx,
      ws,
      person,
      USED_EVENT,
      {
        offer: now.offer.id,
        name: now.offer.name,
        code: now.code,
        order: use.order,
        total: toMajor(use.total, use.currency),
        currency: use.currency,
      },
      at,
    );
  }
  return { repeated: false, answer: now };
}

/** Takes a use back: the order was cancelled. The code is good again until it closes. */
export async function takeBack(tx: Tx, ws: string, typed: string, order: string, at: number): Promise<void> {
  // An order can have used codes of several offers: only this one is taken back.
  const uses = await tx
    .select({ offer_id: offerUses.offerId, person_id: offerUses.personId, code: offerUses.code })
    .from(offerUses)
    .where(and(eq(offerUses.workspaceId, ws), eq(offerUses.orderId, order)))
    .for('update');
  const used = uses.find((u) => plainCode(u.code) === plainCode(typed));
  if (!used) throw new UserError(404, 'not-found', `order: “${order}” did not use the code ${typed}.`, 'order');
  await tx
    .update(offerUses)
    .set({ cancelledAt: sql`coalesce(${offerUses.cancelledAt}, ${at})` })
    .where(and(ofOffer(ws, used.offer_id), eq(offerUses.orderId, order)));
  await tx.execute(sql`
    update offer_grants g set used_at = null where workspace_id = ${ws} and person_id = ${used.person_id} and offer_id = ${used.offer_id}
      and not exists (select 1 from offer_uses u where u.workspace_id = g.workspace_id and u.offer_id = g.offer_id and u.person_id = g.person_id and u.cancelled_at is null)`);
}
