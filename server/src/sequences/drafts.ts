import { sql } from 'drizzle-orm';
import type { SaveAnswer } from '@ascenso/contracts';
import { applyCommands, conflicts, type Command, type LogEntry, type Sequence } from '@ascenso/core';
import { notFound, UserError } from '../app/errors.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';

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
  const s = await firstRow<{ draft: Sequence; revision: number }>(
    tx,
    sql`select draft, revision from sequences where workspace_id = ${ws} and id = ${id} for update`,
  );
  if (!s) throw notFound('sequence');
  const known = save.edit
    ? await firstRow<{ inverses: Command[] }>(
        tx,
        sql`select inverses from draft_log where workspace_id = ${ws} and sequence_id = ${id} and edit = ${save.edit}`,
      )
    : undefined;
  if (known) return { revision: s.revision, draft: s.draft, inverses: known.inverses };
  if (save.base < s.revision) {
    const since = await rows<{ commands: Command[]; name: string }>(
      tx,
      sql`select l.commands, u.name from draft_log l join users u on u.id = l.user_id where l.workspace_id = ${ws} and l.sequence_id = ${id} and l.revision > ${save.base} order by l.revision`,
    );
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
  await tx.execute(
    sql`update sequences set draft = ${JSON.stringify(doc)}::jsonb, name = ${doc.name}, revision = ${revision} where workspace_id = ${ws} and id = ${id}`,
  );
  await tx.execute(
    sql`insert into draft_log (workspace_id, sequence_id, revision, user_id, at, role, commands, inverses, edit)
        values (${ws}, ${id}, ${revision}, ${userId}, ${now}, ${save.role}, ${JSON.stringify(save.commands)}::jsonb, ${JSON.stringify(inverses)}::jsonb, ${save.edit ?? null})`,
  );
  return { revision, draft: doc, inverses };
}
