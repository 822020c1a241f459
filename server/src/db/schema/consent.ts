import { pgTable, primaryKey, text, uuid } from 'drizzle-orm/pg-core';
import { ms, ws } from './columns.ts';

// What people agreed to, and where: kept as it happened, never changed.

/** How a consent, or its end, reached us. */
export type ConsentHow = 'form' | 'import' | 'api' | 'hand' | 'sequence' | 'preferences' | 'one-click' | 'complaint';

/** What many consents share: the way they came, what it is called (a form, a file, a colleague), and the words agreed to. */
export const consentSources = pgTable(
  'consent_sources',
  {
    workspaceId: ws(),
    /** Of its content (RFC 9562, version 5): the same words have the same id. */
    id: uuid('id').notNull(),
    how: text('how').$type<ConsentHow>().notNull(),
    label: text('label').notNull(),
    words: text('words').notNull(),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.id] })],
);

/** One row for each time somebody joined or left a list, or all of them. */
export const consents = pgTable(
  'consents',
  {
    workspaceId: ws(),
    personId: uuid('person_id').notNull(),
    id: uuid('id').notNull(),
    /** Null where it is about all mail. */
    listId: uuid('list_id'),
    what: text('what').$type<'asked' | 'joined' | 'left'>().notNull(),
    at: ms('at').notNull(),
    sourceId: uuid('source_id').notNull(),
    /** Network address or page it came from, as far as it is known. */
    where: text('where'),
  },
  (t) => [primaryKey({ columns: [t.workspaceId, t.personId, t.id] })],
);
