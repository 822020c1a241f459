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
import type {
  Condition,
  EventFact,
  HouseStyle,
  ItemMapping,
  LogEntry,
  MembershipState,
  Program,
  Sequence,
  SweptTrigger,
  TraceEntry,
  Trigger,
  Value,
  Values,
} from '@ascenso/core';
import { ms, ws } from './columns.ts';

export const workspaces = pgTable('workspaces', {
  id: uuid('id').primaryKey(),
  name: text('name').notNull(),
  zone: text('zone').notNull(),
  currency: text('currency').notNull(),
  style: jsonb('style').$type<HouseStyle>().notNull(),
  /** Words of one's own that the spelling check passes. */
  words: text('words')
    .array()
    .notNull()
    .default(sql`'{}'`),
  /** Marketing emails to one person on one local day, at most; null for no cap. */
  dailyCap: integer('daily_cap'),
});

export const users = pgTable('users', {
  id: uuid('id').primaryKey(),
  email: text('email').notNull().unique(),
  name: text('name').notNull(),
  passwordHash: text('password_hash').notNull(),
});

export const members = pgTable(
  'members',
  {
    workspaceId: ws(),
    userId: uuid('user_id').notNull(),
    role: text('role').$type<'owner' | 'editor' | 'reviewer'>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.userId] })],
);

/** Web sessions. The cookie's token is kept as its SHA-256 only. Times here are the system clock's. */
export const webSessions = pgTable('web_sessions', {
  tokenHash: text('token_hash').primaryKey(),
  userId: uuid('user_id').notNull(),
  workspaceId: ws(),
  expiresAt: ms('expires_at').notNull(),
});

export const apiKeys = pgTable(
  'api_keys',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    hint: text('hint').notNull(),
    hash: text('hash').notNull().unique(),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

export const senders = pgTable(
  'senders',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    email: text('email').notNull(),
    isDefault: boolean('is_default').notNull(),
    untouched: boolean('untouched').notNull(),
    fields: jsonb('fields').$type<Record<string, string>>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

export const attributes = pgTable(
  'attributes',
  {
    workspaceId: ws(),
    key: text('key').notNull(),
    label: text('label').notNull(),
    type: text('type').$type<'text' | 'number' | 'date' | 'yes-no' | 'list'>().notNull(),
    position: integer('position').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.key] })],
);

export const lists = pgTable(
  'lists',
  { workspaceId: ws(), id: uuid('id').notNull(), name: text('name').notNull() },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

export const people = pgTable(
  'people',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    /** Stored in lower case. */
    email: text('email').notNull(),
    attributes: jsonb('attributes').$type<Record<string, Value>>().notNull(),
    tags: text('tags')
      .array()
      .notNull()
      .default(sql`'{}'`),
    zone: text('zone'),
    points: integer('points').notNull().default(0),
    mailStatus: text('mail_status').$type<'ok' | 'unsubscribed' | 'bounced' | 'complained'>().notNull().default('ok'),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('people_email').on(t.workspaceId, t.email),
    index('people_created').on(t.workspaceId, t.createdAt),
  ],
);

export const memberships = pgTable(
  'memberships',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    listId: uuid('list_id').notNull(),
    state: text('state').$type<MembershipState>().notNull(),
    at: ms('at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.listId] }),
    index('memberships_list').on(t.workspaceId, t.listId, t.state),
  ],
);

export const eventKinds = pgTable(
  'event_kinds',
  {
    workspaceId: ws(),
    name: text('name').notNull(),
    label: text('label').notNull(),
    fields: jsonb('fields').$type<{ name: string; type: 'text' | 'number' | 'date' | 'yes-no' | 'list' }[]>().notNull(),
    sample: jsonb('sample').$type<Record<string, unknown>>().notNull(),
    learned: boolean('learned').notNull(),
    /** Which fields of an item a repeat block shows, by the path of the list: what was chosen last. */
    mapping: jsonb('mapping').$type<Record<string, ItemMapping>>().notNull().default({}),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.name] })],
);

/** Partitioned by month of occurred_at (see the migration); "same event twice" is kept apart in event_ids. */
export const events = pgTable(
  'events',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    occurredAt: ms('occurred_at').notNull(),
    payload: jsonb('payload').$type<EventFact['payload']>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.occurredAt, t.id] }),
    index('events_name').on(t.workspaceId, t.personId, t.name, t.occurredAt),
  ],
);

export const eventIds = pgTable(
  'event_ids',
  {
    workspaceId: ws(),
    source: text('source').notNull(),
    id: text('id').notNull(),
    bodyHash: text('body_hash').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.source, t.id] })],
);

export const sequences = pgTable(
  'sequences',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    status: text('status').$type<'draft' | 'live' | 'paused' | 'archived'>().notNull(),
    liveVersion: integer('live_version'),
    createdAt: ms('created_at').notNull(),
    revision: integer('revision').notNull(),
    publishedRevision: integer('published_revision'),
    /** Triggers and priority of the live version, beside its large document: they are asked for at every event. */
    triggers: jsonb('triggers').$type<Trigger[]>().notNull().default([]),
    priority: integer('priority').notNull().default(3),
    /** Since when it has been paused, or null. */
    pausedAt: ms('paused_at'),
    draft: jsonb('draft').$type<Sequence>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

export const draftLog = pgTable(
  'draft_log',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    revision: integer('revision').notNull(),
    userId: uuid('user_id').notNull(),
    at: ms('at').notNull(),
    role: text('role').$type<LogEntry['role']>().notNull(),
    commands: jsonb('commands').$type<LogEntry['commands']>().notNull(),
    inverses: jsonb('inverses').$type<LogEntry['inverses']>().notNull(),
    /** Id that the browser gave the edit: sent again, since no answer came, it counts once. */
    edit: uuid('edit'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.sequenceId, t.revision] }),
    uniqueIndex('draft_log_edit').on(t.workspaceId, t.sequenceId, t.edit),
  ],
);

export const versions = pgTable(
  'versions',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    number: integer('number').notNull(),
    doc: jsonb('doc').$type<Sequence>().notNull(),
    /** Content hash of the program by email step id. */ programs: jsonb('programs')
      .$type<Record<string, string>>()
      .notNull(),
    /** Signs of the shared blocks that it was compiled with, by id. */
    shared: jsonb('shared').$type<Record<string, string>>().notNull().default({}),
    publishedAt: ms('published_at').notNull(),
    publishedBy: uuid('published_by'),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.number] })],
);

export const programs = pgTable(
  'programs',
  {
    workspaceId: ws(),
    hash: text('hash').notNull(),
    program: jsonb('program').$type<Program>().notNull(),
    sender: jsonb('sender').$type<{ name: string; email: string; fields: Record<string, string> }>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.hash] })],
);

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
    /** When the loop looks at it next: its due time, or earlier when a fact has woken it. */
    nextDueAt: ms('next_due_at').notNull(),
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
      .on(t.nextDueAt, t.id)
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
    /** End of the lease on the system clock. */
    leaseUntil: ms('lease_until'),
    to: text('to'),
    values: jsonb('values').$type<Values>(),
    sentAt: ms('sent_at'),
    answer: text('answer'),
    openedAt: ms('opened_at'),
    clickedAt: ms('clicked_at'),
    leftAt: ms('left_at'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('sends_once').on(t.workspaceId, t.visitId, t.step),
    index('sends_due')
      .on(t.nextAt, t.id)
      .where(sql`status in ('queued', 'leased')`),
    index('sends_numbers').on(t.workspaceId, t.sequenceId, t.step),
    index('sends_person').on(t.workspaceId, t.personId),
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
    /** Name of the link within the email: its number, or "repeat.item.number" for one in a list. */
    link: text('link'),
    at: ms('at').notNull(),
    prefetched: boolean('prefetched').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sendId, t.id] })],
);

export const traces = pgTable(
  'traces',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    id: uuid('id').notNull(),
    visitId: uuid('visit_id').notNull(),
    sequenceId: uuid('sequence_id').notNull(),
    version: integer('version').notNull(),
    at: ms('at').notNull(),
    step: text('step'),
    code: text('code').$type<TraceEntry['code']>().notNull(),
    data: jsonb('data').$type<TraceEntry['data']>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.personId, t.at, t.id] })],
);

/** A named rule: who is in it is asked anew each time. */
export const segments = pgTable(
  'segments',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    rule: jsonb('rule').$type<Condition>().notNull(),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
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
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.key] }), index('sweeps_due').on(t.nextAt)],
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
    kind: text('kind').$type<'tell' | 'call'>().notNull(),
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
 * One row about this installation. The business clock is the system clock plus the offset; standing still, it is
 * `standing_at`. The secret signs the addresses in emails.
 */
export const installation = pgTable('installation', {
  id: integer('id').primaryKey(),
  practice: boolean('practice').notNull(),
  offset: ms('offset_ms').notNull(),
  standingAt: ms('standing_at'),
  secret: text('secret').notNull(),
});
