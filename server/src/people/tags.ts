import { and, eq } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { people } from '../db/schema/index.ts';
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
  const one = and(eq(people.workspaceId, ws), eq(people.id, personId));
  const [person] = await tx.select({ tags: people.tags }).from(people).where(one).for('update');
  if (!person) return;
  const added = [...new Set(add)].filter((t) => !person.tags.includes(t));
  const removed = person.tags.filter((t) => remove.includes(t));
  if (added.length + removed.length === 0) return;
  const tags = [...person.tags.filter((t) => !remove.includes(t)), ...added];
  await tx.update(people).set({ tags }).where(one);
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
