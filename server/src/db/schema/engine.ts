import { sql } from 'drizzle-orm';
import {
  boolean,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core';
import type { Ending, SweptTrigger, TraceEntry } from '@ascenso/core';
import { bytea, ms, ws } from './columns.ts';

// Sequences as they run: who is inside, what goes out, what came back, and why.

export const visits = pgTable(
  'visits',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    sequenceId: uuid('sequence_id').notNull(),
    version: integer('version').notNull(),
    personId: uuid('person_id').notNull(),
    causeId: text('cause_id').notNull(),
    status: text('status').$type<'active' | 'done'>().notNull(),
    step: text('step'),
    enteredAt: ms('entered_at').notNull(),
    arrivedAt: ms('arrived_at').notNull(),
    dueAt: ms('due_at').notNull(),
    /** When the loop looks at it next: its due time, earlier when a fact has woken it, later when it is set aside. */
    wakeAt: ms('wake_at').notNull(),
    held: boolean('held').notNull(),
    /** The next email was too late when the sequence was resumed, and is left out. */
    tooLate: boolean('too_late').notNull().default(false),
    /** Offer whose codes have run out: the next email waits for new ones. */
    awaits: uuid('awaits'),
    /** Would have entered, but is held out to measure what the sequence adds. */
    heldOut: boolean('held_out').notNull().default(false),
    /** Keeps parallel passages of one person apart; '' where the sequence has no such field. */
    entryKey: text('entry_key').notNull().default(''),
    /** Name of the event that started it, or null. */
    entryEvent: text('entry_event'),
    stepTimes: jsonb('step_times').$type<Record<string, number>>().notNull(),
    entry: jsonb('entry').$type<Record<string, unknown>>().notNull(),
    /** When the event happened whose payload this is: an older one never takes the place of a newer one. */
    entryAt: ms('entry_at').notNull(),
    /** When it ended, or null while it is under way or where that was not kept. */
    endedAt: ms('ended_at'),
    /** What ended it, or null while it is under way. */
    ending: text('ending').$type<Ending>(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('visits_cause').on(t.workspaceId, t.sequenceId, t.personId, t.causeId),
    index('visits_person').on(t.workspaceId, t.personId),
    uniqueIndex('visits_active')
      .on(t.workspaceId, t.sequenceId, t.personId, t.entryKey)
      .where(sql`status = 'active'`),
    index('visits_here')
      .on(t.workspaceId, t.sequenceId, t.step)
      .where(sql`status = 'active'`),
    index('visits_awaiting')
      .on(t.workspaceId, t.awaits)
      .where(sql`awaits is not null`),
    index('visits_due')
      .on(t.workspaceId, t.wakeAt, t.id)
      .where(sql`status = 'active'`),
  ],
);

export const sends = pgTable(
  'sends',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    /** Null for a test send. */
    visitId: uuid('visit_id'),
    sequenceId: uuid('sequence_id').notNull(),
    version: integer('version').notNull(),
    step: text('step').notNull(),
    personId: uuid('person_id').notNull(),
    programHash: text('program_hash').notNull(),
    status: text('status').$type<'queued' | 'leased' | 'sent' | 'cancelled' | 'bounced' | 'failed'>().notNull(),
    dueAt: ms('due_at').notNull(),
    /** Next try on the business clock. */
    nextAt: ms('next_at').notNull(),
    attempts: integer('attempts').notNull().default(0),
    /** The round that decided it also changed the person: a goal that this reaches came after it, and does not take it back. */
    ownChange: boolean('own_change').notNull().default(false),
    /** Why it was taken back while it was under way: should it come back unsent, it is not tried again. */
    revoked: text('revoked'),
    /** Day of the person's calendar that it counts for under the daily cap, or null where none counts it. */
    capDay: integer('cap_day'),
    /** End of the lease on the system clock. */
    leaseUntil: ms('lease_until'),
    to: text('to'),
    /** What it was filled with, packed (`db/packed.ts`); null before. */
    values: bytea('values'),
    sentAt: ms('sent_at'),
    answer: text('answer'),
    openedAt: ms('opened_at'),
    clickedAt: ms('clicked_at'),
    leftAt: ms('left_at'),
    /** When it came back by mail, after it had been accepted. */
    returnedAt: ms('returned_at'),
    /** When its reader called it spam. */
    complainedAt: ms('complained_at'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('sends_once').on(t.workspaceId, t.visitId, t.step),
    index('sends_due')
      .on(t.workspaceId, t.nextAt, t.id)
      .where(sql`status in ('queued', 'leased')`),
    index('sends_numbers').on(t.workspaceId, t.sequenceId, t.step),
    index('sends_person').on(t.workspaceId, t.personId),
    index('sends_day').on(t.workspaceId, t.sequenceId, t.dueAt),
  ],
);

/** Openings, clicks and downloads as they came, each with the link. */
export const readings = pgTable(
  'readings',
  {
    workspaceId: ws(),
    sendId: uuid('send_id').notNull(),
    id: uuid('id').notNull(),
    kind: text('kind').$type<'open' | 'click'>().notNull(),
    /** The link within the email: its number, and of one in a list the number of the repeat and of the item. */
    linkNumber: integer('link_number'),
    linkRepeat: integer('link_repeat'),
    linkItem: integer('link_item'),
    at: ms('at').notNull(),
    prefetched: boolean('prefetched').notNull(),
    /** What it was read on and with, as far as that is known. */
    device: text('device').$type<'phone' | 'tablet' | 'computer'>(),
    program: text('program'),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sendId, t.id] })],
);

/**
 * What was decided and why: one row for each visit and round, with its reasons in order. The view `reasons` tells them one
 * by one.
 */
export const traces = pgTable(
  'traces',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    id: uuid('id').notNull(),
    visitId: uuid('visit_id').notNull(),
    sequenceId: uuid('sequence_id').notNull(),
    version: integer('version').notNull(),
    /** Of the first of them. */
    at: ms('at').notNull(),
    reasons: jsonb('reasons').$type<TraceEntry[]>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.at, t.id] }),
    index('traces_splits')
      .on(t.workspaceId, t.sequenceId)
      .where(sql`reasons @> '[{"code": "split-taken"}]'`),
  ],
);

/** A trigger of a live version that no single event brings: who fits is looked for from time to time. */
export const sweeps = pgTable(
  'sweeps',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    /** The trigger as text: what a republished version still has goes on where it was. */
    key: text('key').notNull(),
    trigger: jsonb('trigger').$type<SweptTrigger>().notNull(),
    /** Everything up to this moment has been found. */
    sweptTo: ms('swept_to').notNull(),
    nextAt: ms('next_at').notNull(),
    /** What lay before this moment is nobody's: the sequence was not there yet. */
    begunAt: ms('begun_at').notNull().default(0),
    /** A look that goes on over several rounds: until which moment it looks, and the person it has come to. */
    passTo: ms('pass_to'),
    passAfter: uuid('pass_after'),
    /** Somebody could not be let in: the look is taken once more when it has come to its end. */
    passFailed: boolean('pass_failed').notNull().default(false),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.key] }), index('sweeps_due').on(t.nextAt)],
);

/** Days of a date that a sweep has seen to, whether they let somebody in or not: each is asked about once. */
export const sweptDates = pgTable(
  'swept_dates',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    personId: uuid('person_id').notNull(),
    causeId: text('cause_id').notNull(),
    at: ms('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.sequenceId, t.personId, t.causeId] }),
    index('swept_dates_at').on(t.workspaceId, t.sequenceId, t.at),
  ],
);

/** Who was in the segment of a sweep when it last looked. */
export const sweepMembers = pgTable(
  'sweep_members',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    segmentId: uuid('segment_id').notNull(),
    personId: uuid('person_id').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.segmentId, t.personId] })],
);

/** The ledger of the daily cap: emails given to a person by day of their own calendar. */
export const mailDays = pgTable(
  'mail_days',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    day: integer('day').notNull(),
    given: integer('given').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.personId, t.day] })],
);

/** What an action tells the team or another machine: handed over once, tried again while it fails. */
export const notices = pgTable(
  'notices',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    visitId: uuid('visit_id').notNull(),
    sequenceId: uuid('sequence_id').notNull(),
    version: integer('version').notNull(),
    step: text('step').notNull(),
    personId: uuid('person_id').notNull(),
    kind: text('kind').$type<'tell' | 'call' | 'halt' | 'answer'>().notNull(),
    /** Address of a mailbox, or of a webhook. */
    to: text('to').notNull(),
    text: text('text').notNull(),
    status: text('status').$type<'queued' | 'done' | 'failed'>().notNull(),
    dueAt: ms('due_at').notNull(),
    nextAt: ms('next_at').notNull(),
    leaseUntil: ms('lease_until'),
    attempts: integer('attempts').notNull().default(0),
    answer: text('answer'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('notices_once').on(t.workspaceId, t.visitId, t.step),
    index('notices_due')
      .on(t.nextAt)
      .where(sql`status = 'queued'`),
  ],
);

/**
 * What could not be handled and is set aside: tried again by itself with growing pauses, and shown until it is done. The
 * row itself carries when it is tried next.
 */
export const setAside = pgTable(
  'set_aside',
  {
    workspaceId: ws(),
    kind: text('kind').$type<'visit' | 'send' | 'sweep' | 'notice' | 'offer'>().notNull(),
    /** Id of the visit, send or notice; key of the sweep; person and offer. */
    item: text('item').notNull(),
    sequenceId: uuid('sequence_id'),
    personId: uuid('person_id'),
    reason: text('reason').notNull(),
    /** How often it has failed in a row. */
    failures: integer('failures').notNull(),
    /** First and next time, on the business clock. */
    since: ms('since').notNull(),
    nextAt: ms('next_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.kind, t.item] })],
);

/**
 * One row while the mail service refuses us, or cannot be reached, before any message is offered: nothing is spent meanwhile.
 * Moments are the system clock's: the service stands outside of any practice.
 */
export const mailService = pgTable('mail_service', {
  id: integer('id').primaryKey(),
  since: ms('since').notNull(),
  nextTryAt: ms('next_try_at').notNull(),
  /** Tries in a row that found it so. */
  tries: integer('tries').notNull(),
  /** What it says, and at which stage of a session. */
  answer: text('answer').notNull(),
  stage: text('stage').notNull(),
  /** When whoever runs this was told by another way, if there is one. */
  toldAt: ms('told_at'),
});

/** How a sender fares: refusals in a row, and since when its mail waits because of them. */
export const senderHealth = pgTable(
  'sender_health',
  {
    workspaceId: ws(),
    email: text('email').notNull(),
    refusals: integer('refusals').notNull(),
    haltedAt: ms('halted_at'),
    /** Since when every one of its emails is told "not now" before any reader is named. */
    putOffSince: ms('put_off_since'),
    answer: text('answer').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.email] })],
);
