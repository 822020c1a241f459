import { sql } from 'drizzle-orm';
import type { Value } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { happen, wakeVisits } from '../engine/entering.ts';

// What changes about a person beside their events, with all that follows: it may start a sequence, or end a wait.

/** Sets a membership. Confirming anew what is confirmed changes nothing. */
export async function setMembership(
  tx: Tx,
  ws: string,
  personId: string,
  listId: string,
  state: 'confirmed' | 'left',
  now: number,
  chain = 0,
): Promise<void> {
  const changed = await firstRow(
    tx,
    sql`insert into memberships (workspace_id, person_id, list_id, state, at) values (${ws}, ${personId}, ${listId}, ${state}, ${now})
        on conflict (workspace_id, person_id, list_id) do update set state = excluded.state, at = excluded.at where memberships.state <> excluded.state
        returning list_id`,
  );
  if (!changed) return;
  await wakeVisits(tx, ws, personId, now);
  const what = state === 'confirmed' ? 'joined' : 'left';
  await happen(tx, ws, personId, { kind: 'list', list: listId, what }, `list:${listId}:${what}:${now}`, now, chain);
}

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
    await happen(tx, ws, personId, { kind: 'tag', tag, what: 'added' }, `tag:${newId()}`, now, chain);
  for (const tag of remove)
    await happen(tx, ws, personId, { kind: 'tag', tag, what: 'removed' }, `tag:${newId()}`, now, chain);
}

/** Changes attributes of a person; null takes a value away. */
export async function changeAttributes(
  tx: Tx,
  ws: string,
  personId: string,
  change: Record<string, unknown>,
  now: number,
  chain = 0,
): Promise<void> {
  const person = await firstRow<{ attributes: Record<string, Value> }>(
    tx,
    sql`select attributes from people where workspace_id = ${ws} and id = ${personId} for update`,
  );
  if (!person || Object.keys(change).length === 0) return;
  const changed = await firstRow<{ attributes: Record<string, Value> }>(
    tx,
    sql`update people set attributes = jsonb_strip_nulls(attributes || ${JSON.stringify(change)}::jsonb) where workspace_id = ${ws} and id = ${personId} returning attributes`,
  );
  await wakeVisits(tx, ws, personId, now);
  await attributesHappened(tx, ws, personId, person.attributes, changed?.attributes ?? {}, now, chain);
}

/** What follows from attributes that have just changed: also a date that a sweep would come to too late. */
export async function attributesHappened(
  tx: Tx,
  ws: string,
  personId: string,
  before: Record<string, Value>,
  after: Record<string, Value>,
  now: number,
  chain: number,
): Promise<void> {
  const keys = Object.keys({ ...before, ...after }).filter(
    (k) => JSON.stringify(before[k]) !== JSON.stringify(after[k]),
  );
  if (keys.length === 0) return;
  await tx.execute(
    sql`update sweeps set next_at = least(next_at, ${now}) where workspace_id = ${ws} and trigger->>'attribute' = any (${sql.param(keys)}::text[])`,
  );
  await happen(tx, ws, personId, { kind: 'attribute', before, after }, `attribute:${newId()}`, now, chain);
}

/** Whether some sequence that can be entered has a trigger of a kind: what nobody waits for need not be told. */
export async function isAwaited(db: Executor, ws: string, kind: 'tag' | 'attribute' | 'reading'): Promise<boolean> {
  const found = await rows(
    db,
    sql`select 1 from sequences where workspace_id = ${ws} and status in ('live', 'paused') and triggers @> ${JSON.stringify([{ kind }])}::jsonb limit 1`,
  );
  return found.length > 0;
}
