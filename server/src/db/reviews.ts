import { and, asc, desc, eq, gt } from 'drizzle-orm';
import type { HistoryRow, ReviewAnswer } from '@ascenso/contracts';
import type { Command } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Executor } from './connect.ts';
import { approvals, comments, draftLog, marks, users } from './schema/index.ts';

/** An email of a draft. */
export interface EmailPlace {
  sequence: string;
  step: string;
}

/** What colleagues say of an email, the oldest first, and its approval. */
export async function reviewOf(db: Executor, ws: string, { sequence, step }: EmailPlace): Promise<ReviewAnswer> {
  const said = await db
    .select({
      id: comments.id,
      block: comments.block,
      text: comments.text,
      by: users.name,
      at: comments.at,
      resolvedAt: comments.resolvedAt,
    })
    .from(comments)
    .innerJoin(users, eq(users.id, comments.userId))
    .where(and(eq(comments.workspaceId, ws), eq(comments.sequenceId, sequence), eq(comments.step, step)))
    .orderBy(asc(comments.at), asc(comments.id));
  const [approval] = await db
    .select({ status: approvals.status, sign: approvals.sign, at: approvals.at, by: users.name })
    .from(approvals)
    .innerJoin(users, eq(users.id, approvals.userId))
    .where(and(eq(approvals.workspaceId, ws), eq(approvals.sequenceId, sequence), eq(approvals.step, step)));
  return { comments: said, approval: approval ?? null };
}

export async function addComment(
  db: Executor,
  ws: string,
  { sequence, step }: EmailPlace,
  said: { block: string | null; text: string; userId: string; at: number },
): Promise<string> {
  const id = newId();
  await db.insert(comments).values({ workspaceId: ws, id, sequenceId: sequence, step, ...said });
  return id;
}

/** Answers whether there is such a comment. */
export async function resolveComment(
  db: Executor,
  ws: string,
  id: string,
  resolvedAt: number | null,
): Promise<boolean> {
  const changed = await db
    .update(comments)
    .set({ resolvedAt })
    .where(and(eq(comments.workspaceId, ws), eq(comments.id, id)))
    .returning({ id: comments.id });
  return changed.length > 0;
}

export async function setApproval(
  db: Executor,
  ws: string,
  { sequence, step }: EmailPlace,
  set: { status: 'asked' | 'approved'; sign: string; userId: string; at: number },
): Promise<void> {
  await db
    .insert(approvals)
    .values({ workspaceId: ws, sequenceId: sequence, step, ...set })
    .onConflictDoUpdate({ target: [approvals.workspaceId, approvals.sequenceId, approvals.step], set });
}

/** States that a draft was in, the latest first. */
export const statesOf = (db: Executor, ws: string, sequence: string, limit: number): Promise<HistoryRow[]> =>
  db
    .select({ revision: draftLog.revision, at: draftLog.at, by: users.name, name: marks.name })
    .from(draftLog)
    .innerJoin(users, eq(users.id, draftLog.userId))
    .leftJoin(
      marks,
      and(
        eq(marks.workspaceId, draftLog.workspaceId),
        eq(marks.sequenceId, draftLog.sequenceId),
        eq(marks.revision, draftLog.revision),
      ),
    )
    .where(and(eq(draftLog.workspaceId, ws), eq(draftLog.sequenceId, sequence)))
    .orderBy(desc(draftLog.revision))
    .limit(limit);

/** What leads back from today's draft to the one of a revision, the latest first. */
export const wayBack = (
  db: Executor,
  ws: string,
  sequence: string,
  revision: number,
): Promise<{ inverses: Command[] }[]> =>
  db
    .select({ inverses: draftLog.inverses })
    .from(draftLog)
    .where(and(eq(draftLog.workspaceId, ws), eq(draftLog.sequenceId, sequence), gt(draftLog.revision, revision)))
    .orderBy(desc(draftLog.revision));

/** Gives the state of a draft a name. */
export async function setMark(
  db: Executor,
  ws: string,
  sequence: string,
  mark: { revision: number; name: string; userId: string; at: number },
): Promise<void> {
  await db
    .insert(marks)
    .values({ workspaceId: ws, sequenceId: sequence, ...mark })
    .onConflictDoUpdate({ target: [marks.workspaceId, marks.sequenceId, marks.revision], set: { name: mark.name } });
}
