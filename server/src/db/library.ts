import { and, eq, sql } from 'drizzle-orm';
import type {
  eventKindChange,
  eventKindRequest,
  mappingRequest,
  senderRequest,
  sharedRequest,
} from '@ascenso/contracts';
import type { HouseStyle } from '@ascenso/core';
import type { z } from 'zod';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { eventKinds, senders, sharedBlocks, workspaces } from './schema/index.ts';

// What emails are made of beside their words: senders, style, kinds of events, shared blocks.

type SenderBody = z.infer<typeof senderRequest>;
type SharedBody = z.infer<typeof sharedRequest>;

const whoseOf = (whose: SenderBody['whose'], user: string) =>
  whose === undefined ? {} : { userId: whose === 'mine' ? user : null };

/** `user` is who asks. */
export async function addSender(db: Executor, ws: string, user: string, body: SenderBody): Promise<string> {
  const id = newId();
  const { whose, ...sender } = body;
  await db
    .insert(senders)
    .values({ workspaceId: ws, id, ...sender, ...whoseOf(whose, user), isDefault: false, untouched: false });
  return id;
}

/** Answers whether there is such a sender. `user` is who asks. */
export async function changeSender(
  db: Executor,
  ws: string,
  user: string,
  id: string,
  body: SenderBody,
): Promise<boolean> {
  const { whose, ...sender } = body;
  const changed = await db
    .update(senders)
    .set({ ...sender, ...whoseOf(whose, user), untouched: false })
    .where(and(eq(senders.workspaceId, ws), eq(senders.id, id)))
    .returning({ id: senders.id });
  return changed.length > 0;
}

export async function changeStyle(db: Executor, ws: string, change: Partial<HouseStyle>): Promise<void> {
  await db
    .update(workspaces)
    .set({ style: sql`${workspaces.style} || ${JSON.stringify(change)}::jsonb` })
    .where(eq(workspaces.id, ws));
}

export async function addWord(db: Executor, ws: string, word: string): Promise<void> {
  await db
    .update(workspaces)
    .set({ words: sql`array(select distinct unnest(${workspaces.words} || ${sql.param([word])}::text[]) order by 1)` })
    .where(eq(workspaces.id, ws));
}

export async function setDailyCap(db: Executor, ws: string, dailyCap: number | null): Promise<void> {
  await db.update(workspaces).set({ dailyCap }).where(eq(workspaces.id, ws));
}

export async function setGrace(db: Executor, ws: string, graceMinutes: number): Promise<void> {
  await db.update(workspaces).set({ graceMinutes }).where(eq(workspaces.id, ws));
}

export async function zoneOfWorkspace(db: Executor, ws: string): Promise<string> {
  const [home] = await db.select({ zone: workspaces.zone }).from(workspaces).where(eq(workspaces.id, ws));
  return home?.zone ?? 'UTC';
}

export async function currencyOf(db: Executor, ws: string): Promise<string> {
  const [home] = await db.select({ currency: workspaces.currency }).from(workspaces).where(eq(workspaces.id, ws));
  return home?.currency ?? 'EUR';
}

/** Declares a kind of event. Answers whether it is new: one that is there stays as it is. */
export async function declareKind(db: Executor, ws: string, body: z.infer<typeof eventKindRequest>): Promise<boolean> {
  const made = await db
    .insert(eventKinds)
    .values({ workspaceId: ws, ...body, learned: false })
    .onConflictDoNothing()
    .returning({ name: eventKinds.name });
  return made.length > 0;
}

/** Changes a kind in its place; one that was learned is declared from then on. Answers whether there is one. */
export async function changeKind(
  db: Executor,
  ws: string,
  name: string,
  body: z.infer<typeof eventKindChange>,
): Promise<boolean> {
  const changed = await db
    .update(eventKinds)
    .set({ ...body, learned: false })
    .where(and(eq(eventKinds.workspaceId, ws), eq(eventKinds.name, name)))
    .returning({ name: eventKinds.name });
  return changed.length > 0;
}

/** Notes which fields of an item a repeat block shows. Answers whether there is such a kind. */
export async function keepMapping(
  db: Executor,
  ws: string,
  name: string,
  { list, mapping }: z.infer<typeof mappingRequest>,
): Promise<boolean> {
  const changed = await db
    .update(eventKinds)
    .set({ mapping: sql`${eventKinds.mapping} || ${JSON.stringify({ [list]: mapping })}::jsonb` })
    .where(and(eq(eventKinds.workspaceId, ws), eq(eventKinds.name, name)))
    .returning({ name: eventKinds.name });
  return changed.length > 0;
}

export async function addShared(db: Executor, ws: string, body: SharedBody, updatedAt: number): Promise<string> {
  const id = newId();
  await db.insert(sharedBlocks).values({ workspaceId: ws, id, ...body, updatedAt });
  return id;
}

/** Answers whether there is such a block. */
export async function changeShared(
  db: Executor,
  ws: string,
  id: string,
  body: SharedBody,
  updatedAt: number,
): Promise<boolean> {
  const changed = await db
    .update(sharedBlocks)
    .set({ ...body, updatedAt })
    .where(and(eq(sharedBlocks.workspaceId, ws), eq(sharedBlocks.id, id)))
    .returning({ id: sharedBlocks.id });
  return changed.length > 0;
}
