import { sql } from 'drizzle-orm';
import type { Executor } from './connect.ts';

// The ways back of what was done to many people at once. What somebody has changed since stays as they have it.

export interface Tagged {
  tag: string;
  people: string[];
}
export interface Set {
  key: string;
  /** Each with the value they had, or null. */
  people: [id: string, had: unknown][];
}
export interface Joined {
  list: string;
  source: string;
  at: number;
  people: string[];
  /** Those of them who had asked and not confirmed yet. */
  pending: string[];
}

export const untagAgain = (db: Executor, ws: string, { tag, people }: Tagged) =>
  db.execute(
    sql`update people set tags = array_remove(tags, ${tag}::text) where workspace_id = ${ws} and id = any (${sql.param(people)}::uuid[])`,
  );

export const setAgain = (db: Executor, ws: string, { key, people }: Set) =>
  db.execute(
    sql`update people p set attributes = jsonb_strip_nulls(p.attributes || jsonb_build_object(${key}::text, o.had))
        from jsonb_to_recordset(${JSON.stringify(people.map(([id, had]) => ({ id, had })))}::jsonb) as o(id uuid, had jsonb) where p.workspace_id = ${ws} and p.id = o.id`,
  );

export async function leaveAgain(
  db: Executor,
  ws: string,
  { list, source, at, people, pending }: Joined,
): Promise<void> {
  const those = sql`m.workspace_id = ${ws} and m.list_id = ${list} and m.state = 'confirmed' and m.at = ${at}`;
  await db.execute(
    sql`update memberships m set state = 'pending' where ${those} and m.person_id = any (${sql.param(pending)}::uuid[])`,
  );
  await db.execute(sql`delete from memberships m where ${those} and m.person_id = any (${sql.param(people)}::uuid[])`);
  await db.execute(
    sql`delete from consents where workspace_id = ${ws} and source_id = ${source}::uuid and person_id = any (${sql.param(people)}::uuid[])`,
  );
}
