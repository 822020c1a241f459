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
import type { Condition, EventFact, ItemMapping, MembershipState, Value } from '@ascenso/core';
import { ms, ws } from './columns.ts';

// The people who are written to: what is known of them, and what they did.

export const attributes = pgTable(
  'attributes',
  {
    workspaceId: ws(),
    key: text('key').notNull(),
    label: text('label').notNull(),
    type: text('type').$type<'text' | 'number' | 'date' | 'yes-no' | 'list'>().notNull(),
    position: integer('position').notNull(),
    /** A text that is one of these; of any where there are none. */
    options: text('options')
      .array()
      .notNull()
      .default(sql`'{}'`),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.key] })],
);

export const lists = pgTable(
  'lists',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    /** What its readers see it called; '' for its name. */
    publicName: text('public_name').notNull().default(''),
    /** What somebody is told who joins it. */
    told: text('told').notNull().default(''),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    uniqueIndex('lists_name').on(t.workspaceId, sql`lower(${t.name})`),
  ],
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
    /** Each end of mail by itself (epoch ms): the end of one leaves the others as they are. */
    unsubscribedAt: ms('unsubscribed_at'),
    bouncedAt: ms('bounced_at'),
    complainedAt: ms('complained_at'),
    /** The strongest of them: a bounce stops service mail too. */
    mailStatus: text('mail_status')
      .$type<'ok' | 'unsubscribed' | 'bounced' | 'complained'>()
      .notNull()
      .generatedAlwaysAs(
        sql`case when bounced_at is not null then 'bounced' when complained_at is not null then 'complained' when unsubscribed_at is not null then 'unsubscribed' else 'ok' end`,
      ),
    /** Emails that came back and might not have, another time. */
    softBounces: integer('soft_bounces').notNull().default(0),
    /** Until when they want no marketing, or null. */
    pausedUntil: ms('paused_until'),
    /** Days that they want between marketing emails, or null; and when the last one was, kept while they do. */
    pace: integer('pace'),
    pacedAt: ms('paced_at'),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('people_email').on(t.workspaceId, t.email),
    index('people_created').on(t.workspaceId, t.createdAt),
    index('people_stopped')
      .on(t.workspaceId, t.email)
      .where(sql`mail_status <> 'ok'`),
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
    /** The passage whose step changed it last, or null where the person, the team or a sender of events did. */
    byVisit: uuid('by_visit'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.listId] }),
    index('memberships_list').on(t.workspaceId, t.listId, t.state),
  ],
);

/** Addresses without a person that are mailed no more: of people who were erased, and those put here by hand or by a file. */
export const suppressed = pgTable(
  'suppressed',
  {
    workspaceId: ws(),
    /** SHA-256 of the installation's secret, the workspace and the address. */
    hash: text('hash').notNull(),
    /** The address, where it was put here by hand; null of those who were erased. */
    email: text('email'),
    unsubscribedAt: ms('unsubscribed_at'),
    bouncedAt: ms('bounced_at'),
    complainedAt: ms('complained_at'),
    /** Who has the address now: these ends are theirs meanwhile, and of an ask that is forgotten they stand by themselves again. */
    heldBy: uuid('held_by'),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.hash] }), index('suppressed_held').on(t.workspaceId, t.heldBy)],
);

/** Lists that people had left before they were erased, by the hash of their address: nobody puts them back but they. */
export const leftLists = pgTable(
  'left_lists',
  {
    workspaceId: ws(),
    hash: text('hash').notNull(),
    listId: uuid('list_id').notNull(),
    at: ms('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.hash, t.listId] })],
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
    /** Extension attributes of the CloudEvent that brought it, or null. */
    extensions: jsonb('extensions').$type<Record<string, unknown>>(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.personId, t.occurredAt, t.id] }),
    index('events_name').on(t.workspaceId, t.personId, t.name, t.occurredAt),
    index('events_kind').on(t.workspaceId, t.name, t.occurredAt),
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

/** A named rule: who is in it is asked anew each time. */
export const segments = pgTable(
  'segments',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    rule: jsonb('rule').$type<Condition>().notNull(),
    createdAt: ms('created_at').notNull(),
    /** What it is kept under, '' for nothing. */
    folder: text('folder').notNull().default(''),
    /** When it is counted next (business clock). */
    countAt: ms('count_at').notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    index('segments_count').on(t.countAt),
    uniqueIndex('segments_name').on(t.workspaceId, sql`lower(${t.name})`),
  ],
);

/** How many people were in a segment at the beginning of each day of the workspace's calendar (days since 1970). */
export const segmentSizes = pgTable(
  'segment_sizes',
  {
    workspaceId: ws(),
    segmentId: uuid('segment_id').notNull(),
    day: integer('day').notNull(),
    people: integer('people').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.segmentId, t.day] })],
);
