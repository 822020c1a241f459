import { and, asc, eq, gt } from 'drizzle-orm';
import type { SaveAnswer } from '@ascenso/contracts';
import { applyCommands, conflicts, type Command, type LogEntry } from '@ascenso/core';
import { notFound, UserError } from '../app/errors.ts';
import type { Tx } from '../db/connect.ts';
import { isUnpublished } from '../db/sequences.ts';
import { draftLog, sequences, users } from '../db/schema/index.ts';

export interface Save {
  base: number;
  commands: Command[];
  role: LogEntry['role'];
  edit?: string | undefined;
}

/**
 * Applies edits to a draft. Edits made on an older revision go on top of what came since, unless both touched the same
 * step or block: then nothing is changed and the conflict is told. An edit that is here already changes nothing again.
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
    .select({ draft: sequences.draft, revision: sequences.revision })
    .from(sequences)
    .where(one)
    .for('update');
  if (!s) throw notFound('sequence');
  const ofDraft = and(eq(draftLog.workspaceId, ws), eq(draftLog.sequenceId, id));
  const [known] = save.edit
    ? await tx
        .select({ inverses: draftLog.inverses })
        .from(draftLog)
        .where(and(ofDraft, eq(draftLog.edit, save.edit)))
    : [];
  if (known)
    return {
      revision: s.revision,
      draft: s.draft,
      inverses: known.inverses,
      unpublished: await isUnpublished(tx, ws, id),
    };
  if (save.base < s.revision) {
    const since = await tx
      .select({ commands: draftLog.commands, name: users.name })
      .from(draftLog)
      .innerJoin(users, eq(users.id, draftLog.userId))
      .where(and(ofDraft, gt(draftLog.revision, save.base)))
      .orderBy(asc(draftLog.revision));
    const other = since.find((entry) =>
      entry.commands.some((theirs) => save.commands.some((ours) => conflicts(theirs, ours))),
    );
    if (other)
      throw new UserError(
        409,
        'conflict',
        `${other.name} changed the same place a moment ago. Your edit was not saved; theirs is shown now.`,
      );
  }
  const { doc, inverses } = applyCommands(s.draft, save.commands);
  const revision = s.revision + 1;
  await tx.update(sequences).set({ draft: doc, name: doc.name, revision }).where(one);
  await tx.insert(draftLog).values({
    workspaceId: ws,
    sequenceId: id,
    revision,
    userId,
    at: now,
    role: save.role,
    commands: save.commands,
    inverses,
    edit: save.edit ?? null,
  });
  return { revision, draft: doc, inverses, unpublished: await isUnpublished(tx, ws, id) };
}
