import { sql } from 'drizzle-orm';
import { boolean, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import { MONEY_RULES, type LabelledKind, type MoneyRules, type PointRules } from '@ascenso/contracts';
import type { HouseStyle } from '@ascenso/core';
import { ms, ws } from './columns.ts';

// Who works here, and with what: workspaces, users, keys, senders, and the installation itself.

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
  /** Minutes between "Send" and the first email of a one-off, in which it can be held; 0 for none. */
  graceMinutes: integer('grace_minutes').notNull().default(1),
  /** Hosts of the workspace's own sites, whose pages may tell who has reached them. */
  siteHosts: text('site_hosts')
    .array()
    .notNull()
    .default(sql`'{}'`),
  /** What people earn by what they do. */
  points: jsonb('points').$type<PointRules>().notNull().default({ opened: 0, clicked: 0, events: {} }),
  /** What an order is, and to which email it is counted. */
  money: jsonb('money').$type<MoneyRules>().notNull().default(MONEY_RULES),
  /** Orders have to be counted anew: what an order is, or to which email it is counted, has changed. */
  moneyDue: boolean('money_due').notNull().default(true),
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
  /** What its user sees of it: which one, since when, last used when (system clock), and on what. */
  id: uuid('id').notNull().defaultRandom(),
  createdAt: ms('created_at').notNull().default(0),
  seenAt: ms('seen_at').notNull().default(0),
  agent: text('agent').notNull().default(''),
});

export const apiKeys = pgTable(
  'api_keys',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    hint: text('hint').notNull(),
    hash: text('hash').notNull().unique(),
    /** Origins of pages that may use it from a browser; a key without any is for servers alone. */
    origins: text('origins')
      .array()
      .notNull()
      .default(sql`'{}'`),
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
    /** The colleague who writes as this sender; null where it is nobody’s own. */
    userId: uuid('user_id'),
    fields: jsonb('fields').$type<Record<string, string>>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
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
  /** When an engine has last finished a round, on the system clock; null before the first. */
  engineSeenAt: ms('engine_seen_at'),
  /** The release that ran here last: a backup says by it what made it. */
  release: text('release'),
});

/** Labels gather what belongs to one undertaking: sequences, one-off sends, offers, lists, templates. */
export const labels = pgTable(
  'labels',
  { workspaceId: ws(), id: uuid('id').notNull(), name: text('name').notNull() },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    uniqueIndex('labels_name').on(t.workspaceId, sql`lower(${t.name})`),
  ],
);

/** What has a label. A thing that is deleted keeps its labels, and has them again should it come back. */
export const labelled = pgTable(
  'labelled',
  {
    workspaceId: ws(),
    labelId: uuid('label_id').notNull(),
    kind: text('kind').$type<LabelledKind>().notNull(),
    thing: uuid('thing').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.labelId, t.kind, t.thing] })],
);
