import { sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import type { CodeAnswer } from '@ascenso/contracts';
import type { Discount, Offer } from '@ascenso/core';
import { bytea, ms, ws } from './columns.ts';

export const offers = pgTable(
  'offers',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    doc: jsonb('doc').$type<Offer>().notNull(),
    /** Key of the permutation that makes its codes: whoever has it can foresee them. */
    secret: bytea('secret').notNull(),
    /** How many codes have been made to its pattern: the next one's number. */
    made: bigint('made', { mode: 'number' }).notNull().default(0),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    uniqueIndex('offers_name').on(t.workspaceId, sql`lower(${t.doc}->>'name')`),
  ],
);

/** Unique codes. One is found by its key: capitals, without hyphens, since people type what they see. */
export const offerCodes = pgTable(
  'offer_codes',
  {
    workspaceId: ws(),
    key: text('key').notNull(),
    offerId: uuid('offer_id').notNull(),
    code: text('code').notNull(),
    /** Made here to a pattern, or from a file: an offer gives out one kind at a time. */
    made: boolean('made').notNull(),
    /** Order in which they are given out. */
    n: bigint('n', { mode: 'number' }).notNull(),
    /** Whose it is; null while it is free. Taken for good once an email that shows it has been handed over. */
    personId: uuid('person_id'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.key] }),
    index('offer_codes_free')
      .on(t.workspaceId, t.offerId, t.made, t.n)
      .where(sql`person_id is null`),
  ],
);

/** What one person has of an offer: set once, when the first email that makes it is decided. */
export const offerGrants = pgTable(
  'offer_grants',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    offerId: uuid('offer_id').notNull(),
    openedAt: ms('opened_at').notNull(),
    /** Null where it never closes. */
    closesAt: ms('closes_at'),
    code: text('code'),
    codeKey: text('code_key'),
    /** First email that shows it was filled: from then on it is theirs, whatever becomes of the email. */
    issuedAt: ms('issued_at'),
    usedAt: ms('used_at'),
    /** First opening of an email that makes it. */
    seenAt: ms('seen_at'),
    /** What was promised: a later change of the offer is for others. */
    discount: jsonb('discount').$type<Discount>().notNull(),
    /** Its end has been told as an event. */
    expiredAt: ms('expired_at'),
    /** What of it has been told as events: 1 that it is theirs, 2 that they have seen it. */
    told: integer('told').notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.offerId] }),
    index('offer_grants_offer').on(t.workspaceId, t.offerId, t.openedAt),
    index('offer_grants_code').on(t.workspaceId, t.codeKey),
    index('offer_grants_ending')
      .on(t.closesAt)
      .where(sql`used_at is null and expired_at is null and closes_at is not null and issued_at is not null`),
    index('offer_grants_telling')
      .on(t.issuedAt)
      .where(sql`told < case when seen_at is not null then 2 when issued_at is not null then 1 else 0 end`),
  ],
);

/** Orders in which a code was used, as the shop told: once for each order. */
export const offerUses = pgTable(
  'offer_uses',
  {
    workspaceId: ws(),
    offerId: uuid('offer_id').notNull(),
    orderId: text('order_id').notNull(),
    personId: uuid('person_id'),
    code: text('code').notNull(),
    /** Minor units of the currency. */
    total: integer('total').notNull(),
    currency: text('currency').notNull(),
    at: ms('at').notNull(),
    /** Taken back by the shop, or null. */
    cancelledAt: ms('cancelled_at'),
    /** What the shop was answered: the same order told again is answered the same. Null in uses of older releases. */
    answer: jsonb('answer').$type<CodeAnswer>(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.offerId, t.orderId] })],
);
