import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { happen } from './entering.ts';
import { wakeVisits } from './visits.ts';

/** What tags were, and which are put on and taken off. */
export interface TagChange {
  add: readonly string[];
  remove: readonly string[];
}

/** Puts tags on a person and takes others off. */
export async function changeTags(
  tx: Tx,
  ws: string,
  personId: string,
  { add, remove }: TagChange,
  now: number,
  chain = 0,
): Promise<void> {
  const person = await firstRow<{ tags: string[] }>(
    tx,
    sql`select tags from people where workspace_id = ${ws} and id = ${personId} for update`,
  );
  if (!person) return;
  const added = [...new Set(add)].filter((t) => !person.tags.includes(t));
  const removed = person.tags.filter((t) => remove.includes(t));
  if (added.length + removed.length === 0) return;
  const tags = [...person.tags.filter((t) => !remove.includes(t)), ...added];
  await tx.execute(
    sql`update people set tags = ${sql.param(tags)}::text[] where workspace_id = ${ws} and id = ${personId}`,
  );
  await wakeVisits(tx, ws, personId, now);
  await tagsHappened(tx, ws, personId, { add: added, remove: removed }, now, chain);
}

/** What follows from tags that have just been put on and taken off. */
export async function tagsHappened(
  tx: Tx,
  ws: string,
  personId: string,
  { add, remove }: TagChange,
  now: number,
  chain: number,
): Promise<void> {
  for (const tag of add)
    await happen(tx, ws, personId, { kind: 'tag', tag, what: 'added' }, `tag:${newId()}`, { at: now, now }, chain);
  for (const tag of remove)
    await happen(tx, ws, personId, { kind: 'tag', tag, what: 'removed' }, `tag:${newId()}`, { at: now, now }, chain);
}
