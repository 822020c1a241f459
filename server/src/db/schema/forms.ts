import { sql } from 'drizzle-orm';
import { boolean, index, integer, jsonb, pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import type { FormAnswers, SignUpForm } from '@ascenso/core';
import { ms, ws } from './columns.ts';

// Sign-up forms, and who has asked by them and not confirmed yet.

export const forms = pgTable(
  'forms',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    doc: jsonb('doc').$type<SignUpForm>().notNull(),
    /** Goes up with each change: consents name it. */
    version: integer('version').notNull(),
    status: text('status').$type<'draft' | 'open' | 'closed'>().notNull(),
    /** The sequence that sends its confirmation email. */
    sequenceId: uuid('sequence_id').notNull(),
    createdAt: ms('created_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

/** One sending of a form. What it says becomes known of somebody only when they confirm it. */
export const asks = pgTable(
  'asks',
  {
    workspaceId: ws(),
    id: uuid('id').notNull(),
    formId: uuid('form_id').notNull(),
    version: integer('version').notNull(),
    personId: uuid('person_id').notNull(),
    answers: jsonb('answers').$type<FormAnswers>().notNull(),
    /** Words that were agreed to. */
    consent: text('consent').notNull(),
    /** Whether it made the person: then they are forgotten with it. */
    made: boolean('made').notNull(),
    /** Network address it came from. */
    where: text('where'),
    askedAt: ms('asked_at').notNull(),
    confirmedAt: ms('confirmed_at'),
  },
  (t) => [
    primaryKey({ columns: [t.workspaceId, t.id] }),
    index('asks_person').on(t.workspaceId, t.personId, t.askedAt),
    index('asks_waiting')
      .on(t.askedAt)
      .where(sql`confirmed_at is null`),
    index('asks_form').on(t.workspaceId, t.formId, t.askedAt),
  ],
);
