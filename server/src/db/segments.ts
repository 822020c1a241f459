import { and, eq, sql } from 'drizzle-orm';
import type { segmentRequest } from '@ascenso/contracts';
import type { Condition } from '@ascenso/core';
import type { z } from 'zod';
import { newId } from '../app/ids.ts';
import type { Db, Executor } from './connect.ts';
import { rows } from './rows.ts';
import { segments, segmentSizes } from './schema/index.ts';
import { transact } from './transact.ts';

type Body = z.infer<typeof segmentRequest>;

/** Days of sizes that are shown. */
const SHOWN_DAYS = 90;

export interface KeptSegment {
  id: string;
  name: string;
  rule: Condition;
  folder: string;
  /** When it is counted next: a day after it was. */
  countAt: number;
  sizes: { day: number; people: number }[];
}

/** All segments by folder and name, with their sizes as they were kept. */
export const listSegments = (db: Executor, ws: string): Promise<KeptSegment[]> =>
  rows(
    db,
    sql`select s.id, s.name, s.rule, s.folder, s.count_at as "countAt", coalesce((
          select jsonb_agg(jsonb_build_object('day', z.day, 'people', z.people) order by z.day) from (
            select day, people from segment_sizes z where z.workspace_id = s.workspace_id and z.segment_id = s.id order by day desc limit ${SHOWN_DAYS}) z), '[]') as sizes
        from segments s where s.workspace_id = ${ws} order by s.folder = '', lower(s.folder), lower(s.name)`,
  );

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

/** Answers whether there is such a segment. Another rule is another segment to whoever looks at its sizes: they begin anew. */
export async function changeSegment(db: Db, ws: string, id: string, body: Body): Promise<boolean> {
  const rule = JSON.stringify(body.rule);
  return transact(db, async (tx) => {
    const [before] = await rows<{ other: boolean }>(
      tx,
      sql`select rule <> ${rule}::jsonb as other from segments where workspace_id = ${ws} and id = ${id} for update`,
    );
    if (!before) return false;
    await tx
      .update(segments)
      .set({ ...body, ...(before.other ? { countAt: 0 } : {}) })
      .where(and(eq(segments.workspaceId, ws), eq(segments.id, id)));
    if (before.other)
      await tx.delete(segmentSizes).where(and(eq(segmentSizes.workspaceId, ws), eq(segmentSizes.segmentId, id)));
    return true;
  });
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
