import { sql } from 'drizzle-orm';
import { atomsOf, everyCondition, startingEvents, type Sequence } from '@ascenso/core';
import type { FieldUse } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { firstRow } from './rows.ts';
import { usesIn, writtenIn, type Spoken } from './uses.ts';

/**
 * Fields of a kind of event that one version or draft speaks of. Within a sequence that it starts they are spoken of as
 * event.name; conditions about the kind name them by themselves.
 */
function spoken(doc: Sequence, kind: string): Spoken[] {
  const starts = startingEvents(doc.triggers).includes(kind);
  const asked = [
    ...doc.triggers.flatMap((t) =>
      (t.kind === 'event' || t.kind === 'unfollowed') && t.event === kind ? t.where : [],
    ),
    ...everyCondition(doc)
      .flatMap(atomsOf)
      .flatMap((a) => (a.kind === 'event' && a.event === kind ? a.where : [])),
  ].map((test) => ({ field: test.field, where: 'a condition' }));
  const byEntry = doc.entry.key ? [{ field: doc.entry.key.split('.')[0] ?? '', where: 'how it starts' }] : [];
  return [...(starts ? writtenIn(doc, 'event') : []), ...asked, ...(starts ? byEntry : [])];
}

/** Where the fields of a kind of event are used. */
export const usesOfFields = (db: Executor, ws: string, kind: string): Promise<FieldUse[]> =>
  usesIn(db, ws, (doc) => spoken(doc, kind));

/** The fields that a kind of event has, with their types; none where there is no such kind. */
export const fieldsOf = async (db: Executor, ws: string, kind: string): Promise<{ name: string; type: string }[]> =>
  (
    await firstRow<{ fields: { name: string; type: string }[] }>(
      db,
      sql`select fields from event_kinds where workspace_id = ${ws} and name = ${kind}`,
    )
  )?.fields ?? [];
