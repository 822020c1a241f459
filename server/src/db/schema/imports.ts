import { sql } from 'drizzle-orm';
import type { ImportCounts, ImportFile, ImportState } from '@ascenso/contracts';
import type { ImportPlan, MailStatus } from '@ascenso/core';
import { index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { bytea, ms, ws } from './columns.ts';

// Files of people on their way in: the file, what was read of it, and how to take it back.

export const imports = pgTable(
  'imports',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    name: text('name').notNull(),
    state: text('state').$type<ImportState>().notNull(),
    file: jsonb('file').$type<ImportFile>(),
    plan: jsonb('plan').$type<ImportPlan>(),
    counts: jsonb('counts').$type<ImportCounts>(),
    /** Rows that the work under way has been through, of so many. */
    done: integer('done').notNull().default(0),
    total: integer('total').notNull().default(0),
    /** Why it failed, in words. */
    problem: text('problem'),
    /** Who brings it. */
    by: text('by').notNull(),
    createdAt: ms('created_at').notNull(),
    /** When its people were all in (business clock): from here on it can be undone for a week. */
    endedAt: ms('ended_at'),
    /** End of the lease of the process that works on it (system clock). */
    leaseUntil: ms('lease_until'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    index('imports_working')
      .on(t.leaseUntil)
      .where(sql`state in ('checking', 'running', 'undoing')`),
  ],
);

/** The file as it came, in pieces. */
export const importPieces = pgTable(
  'import_pieces',
  {
    workspaceId: ws(),
    importId: uuid('import_id').notNull(),
    n: integer('n').notNull(),
    bytes: bytea('bytes').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.importId, t.n] })],
);

/** Its rows as they were read, and what they came to. */
export const importRows = pgTable(
  'import_rows',
  {
    workspaceId: ws(),
    importId: uuid('import_id').notNull(),
    n: integer('n').notNull(),
    line: integer('line').notNull(),
    email: text('email'),
    attributes: jsonb('attributes').$type<Record<string, unknown>>(),
    zone: text('zone'),
    tags: text('tags').array(),
    lists: uuid('lists').array(),
    consentAt: ms('consent_at'),
    /** Whether they get mail, as the file says; null where it does not. */
    mail: text('mail').$type<MailStatus>(),
    /** Why it cannot be read, or null. */
    fault: text('fault'),
    /** The id that its person gets, where it makes one; else whom it has changed. */
    personId: uuid('person_id'),
    /** What the person had before, where it has changed one; of a row that cannot be read, its cells. */
    before: jsonb('before').$type<Record<string, unknown> | string[]>(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.importId, t.n] })],
);
