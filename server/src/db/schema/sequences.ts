import { sql } from 'drizzle-orm';
import { boolean, integer, jsonb, pgTable, primaryKey, text, timestamp, uniqueIndex, uuid } from 'drizzle-orm/pg-core';
import type { Halt } from '@ascenso/contracts';
import type { Edit, Materials, Program, Sequence, Trigger } from '@ascenso/core';
import { bytea, ms, ws } from './columns.ts';

// Sequences as they are designed: drafts with their log, published versions, compiled emails.

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
    /** The one person whom its email is written to; null for a sequence of everybody's. */
    personId: uuid('person_id'),
    /** The template that is written in it; null for all that can go out. */
    templateId: uuid('template_id'),
    /** Whether it is one of the sequences that people list, find and choose: neither a letter nor a template. */
    listed: boolean('listed')
      .notNull()
      .generatedAlwaysAs(sql`person_id is null and template_id is null`),
    /** Since when it has been paused, or null. */
    pausedAt: ms('paused_at'),
    /** Why it was paused by itself, while it is. */
    halted: jsonb('halted').$type<Halt>(),
    /** Emails due before this have been answered for: they halt it no more. */
    haltFrom: ms('halt_from').notNull().default(0),
    /** Of a one-off send: since when all are in whom it was for, or null. */
    letInAt: ms('let_in_at'),
    draft: jsonb('draft').$type<Sequence>().notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    uniqueIndex('sequences_template').on(t.workspaceId, t.templateId),
  ],
);

export const draftLog = pgTable(
  'draft_log',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    revision: integer('revision').notNull(),
    userId: uuid('user_id').notNull(),
    at: ms('at').notNull(),
    role: text('role').$type<Edit['role']>().notNull(),
    commands: jsonb('commands').$type<Edit['commands']>().notNull(),
    inverses: jsonb('inverses').$type<Edit['commands']>().notNull(),
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
    /** What of the house it was compiled with, so that it can be told when that has changed. */
    made: jsonb('made').$type<Materials>().notNull(),
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
    /** What its emails have in common, for packing what each was filled with; null where it is from before there was any. */
    dictionary: bytea('dictionary'),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.hash] })],
);

/** Who has a sequence open, by tab of a browser. By the system clock: practice time says nothing about who sits there. */
export const presence = pgTable(
  'presence',
  {
    workspaceId: ws(),
    sequenceId: uuid('sequence_id').notNull(),
    tab: uuid('tab').notNull(),
    userId: uuid('user_id').notNull(),
    step: text('step'),
    seenAt: timestamp('seen_at', { withTimezone: true }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.sequenceId, t.tab] })],
);
