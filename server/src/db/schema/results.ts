import {
  bigint,
  bigserial,
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
import type { SplitRule } from '@ascenso/core';
import { sql } from 'drizzle-orm';
import { ms, ws } from './columns.ts';

// What came back: orders with the email that each is counted to, and counters that the database itself moves.

const n = () => bigint('n', { mode: 'number' }).notNull();

/** Orders as their events told them. Of people who were erased they stay, as their emails do. */
export const orders = pgTable(
  'orders',
  {
    workspaceId: ws(),
    /** Id of the event. */
    id: uuid('id').notNull(),
    personId: uuid('person_id').notNull(),
    at: ms('at').notNull(),
    /** Minor units of the currency. */
    amount: bigint('amount', { mode: 'number' }).notNull(),
    currency: text('currency').notNull(),
    /** What the shop calls it: the same one told again is one order. Null where it has no such field. */
    number: text('number'),
    /** How it came to its email: by a code of the email's offer, or by the last click; null for one that no email brought. */
    by: text('by').$type<'code' | 'click'>(),
    sendId: uuid('send_id'),
    visitId: uuid('visit_id'),
    sequenceId: uuid('sequence_id'),
    version: integer('version'),
    step: text('step'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    uniqueIndex('orders_number')
      .on(t.workspaceId, t.number)
      .where(sql`number is not null`),
    index('orders_sequence').on(t.workspaceId, t.sequenceId, t.at),
    index('orders_person').on(t.workspaceId, t.personId, t.at),
  ],
);

// A counter is told apart by sequence, version, step, what is counted, and a detail of it (arm, reason, currency).
const key = () => ({
  workspaceId: ws(),
  sequenceId: uuid('sequence_id').notNull(),
  version: integer('version').notNull(),
  /** '' for what belongs to no step. */
  step: text('step').notNull(),
  what: text('what').notNull(),
  detail: text('detail').notNull(),
});

/** Increments as they come, written by triggers in the transaction that changes a row: nobody waits for a counter. */
export const tallyMoves = pgTable('tally_moves', {
  id: bigserial('id', { mode: 'number' }).primaryKey(),
  ...key(),
  /** Day of the workspace's calendar, or null for what is only counted as it stands now. */
  day: integer('day'),
  n: n(),
});

/** Increments folded up by day. */
export const tallies = pgTable('tallies', { ...key(), day: integer('day').notNull(), n: n() }, (t) => [
  primaryKey({
    name: 'tallies_pk',
    columns: [t.workspaceId, t.sequenceId, t.what, t.step, t.detail, t.version, t.day],
  }),
  index('tallies_day').on(t.workspaceId, t.what, t.day),
]);

/** Increments folded up over all days. */
export const tallyTotals = pgTable('tally_totals', { ...key(), n: n() }, (t) => [
  primaryKey({
    name: 'tally_totals_pk',
    columns: [t.workspaceId, t.sequenceId, t.what, t.step, t.detail, t.version],
  }),
]);

/** Splits of live versions that are decided by a rule. */
export const splitTests = pgTable(
  'split_tests',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    step: text('step').notNull(),
    /** Its arms and its rule as text: what a republished version still has goes on where it was. */
    key: text('key').notNull(),
    rule: jsonb('rule').$type<SplitRule>().notNull(),
    /** When the first person took part, and when it is looked at next; null while nobody has. */
    firstAt: ms('first_at'),
    nextAt: ms('next_at'),
    /** The arm that everybody takes since then; null while it is not decided. */
    arm: text('arm'),
    decidedAt: ms('decided_at'),
    /** Whether the gap was settled by then, or one arm was merely ahead. */
    settled: boolean('settled').notNull().default(false),
    /** Whether too few had taken part for one to be ahead. */
    few: boolean('few').notNull().default(false),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.sequenceId, t.step] }),
    index('split_tests_due')
      .on(t.nextAt)
      .where(sql`arm is null`),
  ],
);
