import { and, eq, or, sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { lists } from './schema/index.ts';

/** Makes a list. A name that is taken is refused by the index. */
export async function addList(db: Executor, ws: string, name: string): Promise<string> {
  const id = newId();
  await db.insert(lists).values({ workspaceId: ws, id, name });
  return id;
}

export async function hasList(db: Executor, ws: string, id: string): Promise<boolean> {
  const [known] = await db
    .select({ id: lists.id })
    .from(lists)
    .where(and(eq(lists.workspaceId, ws), eq(lists.id, id)));
  return known !== undefined;
}

/** Id of the list that a sender of people means: by its name or its id. */
export async function listCalled(db: Executor, ws: string, called: string): Promise<string | undefined> {
  const [known] = await db
    .select({ id: lists.id })
    .from(lists)
    .where(and(eq(lists.workspaceId, ws), or(eq(lists.name, called), sql`${lists.id}::text = ${called}`)));
  return known?.id;
}
