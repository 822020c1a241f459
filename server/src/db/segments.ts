import { and, asc, eq, sql } from 'drizzle-orm';
import type { segmentRequest } from '@ascenso/contracts';
import type { Condition } from '@ascenso/core';
import type { z } from 'zod';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { rows } from './rows.ts';
import { segments } from './schema/index.ts';

type Body = z.infer<typeof segmentRequest>;

export const listSegments = (db: Executor, ws: string): Promise<{ id: string; name: string; rule: Condition }[]> =>
  db
    .select({ id: segments.id, name: segments.name, rule: segments.rule })
    .from(segments)
    .where(eq(segments.workspaceId, ws))
    .orderBy(asc(segments.name));

export async function ruleOf(db: Executor, ws: string, id: string): Promise<Condition | undefined> {
  const [row] = await db
    .select({ rule: segments.rule })
    .from(segments)
    .where(and(eq(segments.workspaceId, ws), sql`${segments.id}::text = ${id}`));
  return row?.rule;
}

/** Makes a segment. A name that is taken is refused by the index. */
export async function addSegment(db: Executor, ws: string, body: Body, now: number): Promise<string> {
  const id = newId();
  await db.insert(segments).values({ workspaceId: ws, id, ...body, createdAt: now });
  return id;
}

/** Answers whether there is such a segment. */
export async function changeSegment(db: Executor, ws: string, id: string, body: Body): Promise<boolean> {
  const changed = await db
    .update(segments)
    .set(body)
    .where(and(eq(segments.workspaceId, ws), eq(segments.id, id)))
    .returning({ id: segments.id });
  return changed.length > 0;
}

/** Names of the sequences whose draft or live version speaks of a segment. */
export async function usesOfSegment(db: Executor, ws: string, id: string): Promise<string[]> {
  const found = await rows<{ name: string }>(
    db,
    sql`select s.name from sequences s left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.id and v.number = s.live_version
        where s.workspace_id = ${ws} and s.status <> 'archived' and (s.draft::text like ${`%${id}%`} or v.doc::text like ${`%${id}%`}) order by s.name`,
  );
  return found.map((f) => f.name);
}
