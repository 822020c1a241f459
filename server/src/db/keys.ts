import { and, arrayContains, asc, eq } from 'drizzle-orm';
import type { KeyRow } from '@ascenso/contracts';
import { sha256 } from '../app/hash.ts';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { apiKeys } from './schema/index.ts';
import { randomBytes } from '../app/chance.ts';

/** A new API key: shown once, kept as its hash. */
export async function makeKey(
  db: Executor,
  ws: string,
  name: string,
  now: number,
  origins: string[] = [],
): Promise<{ id: string; key: string }> {
  const key = `asc_${randomBytes(24).toString('base64url')}`;
  const id = newId();
  await db
    .insert(apiKeys)
    .values({ workspaceId: ws, id, name, hint: key.slice(-4), hash: sha256(key), createdAt: now, origins });
  return { id, key };
}

export const listKeys = (db: Executor, ws: string): Promise<KeyRow[]> =>
  db
    .select({
      id: apiKeys.id,
      name: apiKeys.name,
      hint: apiKeys.hint,
      createdAt: apiKeys.createdAt,
      origins: apiKeys.origins,
    })
    .from(apiKeys)
    .where(eq(apiKeys.workspaceId, ws))
    .orderBy(asc(apiKeys.createdAt));

/** Answers whether there was such a key. */
export async function deleteKey(db: Executor, ws: string, id: string): Promise<boolean> {
  const gone = await db
    .delete(apiKeys)
    .where(and(eq(apiKeys.workspaceId, ws), eq(apiKeys.id, id)))
    .returning({ id: apiKeys.id });
  return gone.length > 0;
}

/** What a key opens, and for whom. */
export interface OpenedBy {
  id: string;
  name: string;
  workspace: string;
  /** Origins of the pages that it is for; none for a key of servers. */
  origins: string[];
}

export async function keyOpening(db: Executor, key: string): Promise<OpenedBy | undefined> {
  const [row] = await db
    .select({ id: apiKeys.id, name: apiKeys.name, workspace: apiKeys.workspaceId, origins: apiKeys.origins })
    .from(apiKeys)
    .where(eq(apiKeys.hash, sha256(key)));
  return row;
}

/** Whether some key is made for pages of an origin. */
export async function originIsKnown(db: Executor, origin: string): Promise<boolean> {
  const found = await db
    .select({ id: apiKeys.id })
    .from(apiKeys)
    .where(arrayContains(apiKeys.origins, [origin]))
    .limit(1);
  return found.length > 0;
}
