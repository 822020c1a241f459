import { and, asc, eq, gt, inArray } from 'drizzle-orm';
import type { SaveAnswer } from '@ascenso/contracts';
import { rebase, type Edit, type Saved } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import { notFound, UserError } from '../app/errors.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { isUnpublished } from '../db/sequences.ts';
import { draftLog, sequences, users } from '../db/schema/index.ts';
import { keepAsTemplate } from '../db/templates.ts';

export interface Save {
  /** Revision that the edits were made on. */
  base: number;
  edits: (Omit<Edit, 'id'> & { id?: string | undefined })[];
}

const ofDraft = (ws: string, id: string) => and(eq(draftLog.workspaceId, ws), eq(draftLog.sequenceId, id));

/** What has been saved of a draft after a revision, in order, as one user sees it. */
export async function savedSince(
  db: Executor,
  ws: string,
  id: string,
  revision: number,
  userId: string,
): Promise<Saved[]> {
  const found = await db
    .select({
      id: draftLog.edit,
      revision: draftLog.revision,
      role: draftLog.role,
      commands: draftLog.commands,
      inverses: draftLog.inverses,
      user: draftLog.userId,
      by: users.name,
    })
    .from(draftLog)
    .innerJoin(users, eq(users.id, draftLog.userId))
    .where(and(ofDraft(ws, id), gt(draftLog.revision, revision)))
    .orderBy(asc(draftLog.revision));
  return found.map(({ user, ...saved }) => ({ ...saved, mine: user === userId }));
}

/**
 * Puts edits into a draft. Those made on an older revision go on top of what came since; what collides with that is set
 * aside and answered, and nobody's work is gone over. An edit that is here already changes nothing again.
 */
export async function saveDraft(
  tx: Tx,
  ws: string,
  id: string,
  userId: string,
  save: Save,
  now: number,
): Promise<SaveAnswer> {
  const one = and(eq(sequences.workspaceId, ws), eq(sequences.id, id));
  const [s] = await tx
    .select({ draft: sequences.draft, revision: sequences.revision, template: sequences.templateId })
    .from(sequences)
    .where(one)
    .for('update');
  if (!s) throw notFound('sequence');
  const edits = save.edits.map((e): Edit => ({ ...e, id: e.id ?? newId() }));
  const ids = edits.map((e) => e.id);
  const known = await tx
    .select({ edit: draftLog.edit })
    .from(draftLog)
    .where(and(ofDraft(ws, id), inArray(draftLog.edit, ids)));
  const fresh = edits.filter((e) => !known.some((k) => k.edit === e.id));
  const others = (await savedSince(tx, ws, id, save.base, userId)).filter((o) => o.id === null || !ids.includes(o.id));
  const { doc, applied, aside, moot } = rebase(fresh, others, s.draft);
  const [wrong] = aside;
  // Nobody else is at fault: such an edit fits no draft.
  if (wrong && others.length === 0) throw new UserError(422, 'invalid', wrong.why, wrong.field ?? 'commands');
  const revision = s.revision + applied.length;
  if (applied.length > 0) {
    await tx.update(sequences).set({ draft: doc, name: doc.name, revision }).where(one);
    if (s.template) await keepAsTemplate(tx, ws, s.template, doc, now);
    await tx.insert(draftLog).values(
      applied.map(({ id: edit, role, commands, inverses }, i) => ({
        workspaceId: ws,
        sequenceId: id,
        revision: s.revision + 1 + i,
        userId,
        at: now,
        role,
        commands,
        inverses,
        edit,
      })),
    );
  }
  return {
    revision,
    unpublished: await isUnpublished(tx, ws, id),
    edits: await savedSince(tx, ws, id, save.base, userId),
    aside: aside.map(({ edit, over, why }) => ({ id: edit.id, over, why })),
    moot,
  };
}
