import { sql } from 'drizzle-orm';
import { index, integer, jsonb, pgTable, primaryKey, text, timestamp, unique, uuid } from 'drizzle-orm/pg-core';
import type { Block, Email } from '@ascenso/core';
import { bytea, ms, ws } from './columns.ts';

export const files = pgTable(
  'files',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    mime: text('mime').notNull(),
    size: integer('size').notNull(),
    sha256: text('sha256').notNull(),
    width: integer('width'),
    height: integer('height'),
    content: bytea('content').notNull(),
    /** Folder in the library, '' for none. */
    folder: text('folder').notNull().default(''),
    /** What a picture shows: taken over where it is put into an email. */
    alt: text('alt').notNull().default(''),
    keywords: text('keywords')
      .array()
      .notNull()
      .default(sql`'{}'`),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    unique('files_id').on(t.id),
    unique('files_content').on(t.workspaceId, t.sha256, t.name),
  ],
);

/** Blocks that stand in many emails and are changed in one place. */
export const sharedBlocks = pgTable(
  'shared_blocks',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    blocks: jsonb('blocks').$type<Block[]>().notNull(),
    updatedAt: ms('updated_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

/** Emails to begin with. A private one is its owner's alone. */
export const templates = pgTable(
  'templates',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    /** What it is for, in the team's words. */
    about: text('about').notNull().default(''),
    email: jsonb('email').$type<Email>().notNull(),
    /** Whose it is, or null for everyone's. */
    ownerId: uuid('owner_id'),
    updatedAt: ms('updated_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

/** A sign of the content that was last sent as a test. */
export const tests = pgTable(
  'tests',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    step: text('step').notNull(),
    sign: text('sign').notNull(),
    at: ms('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.step] })],
);

/** What somebody says about an email, or about one block of it. */
export const comments = pgTable(
  'comments',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    sequenceId: uuid('sequence_id').notNull(),
    step: text('step').notNull(),
    block: text('block'),
    userId: uuid('user_id').notNull(),
    text: text('text').notNull(),
    at: ms('at').notNull(),
    resolvedAt: ms('resolved_at'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    index('comments_email').on(t.workspaceId, t.sequenceId, t.step),
  ],
);

/** Approval of an email: asked for, or given for the content with a sign. */
export const approvals = pgTable(
  'approvals',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    step: text('step').notNull(),
    status: text('status').$type<'asked' | 'approved'>().notNull(),
    sign: text('sign').notNull(),
    userId: uuid('user_id').notNull(),
    at: ms('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.step] })],
);

/** A state of a draft that somebody gave a name. */
export const marks = pgTable(
  'marks',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    revision: integer('revision').notNull(),
    name: text('name').notNull(),
    userId: uuid('user_id').notNull(),
    at: ms('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.revision] })],
);

/** What was deleted and can be brought back for a week: the row as it was. */
export const bin = pgTable(
  'bin',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    kind: text('kind').$type<'shared' | 'template' | 'segment' | 'file'>().notNull(),
    row: jsonb('row').notNull(),
    binnedAt: timestamp('binned_at', { withTimezone: true }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);
