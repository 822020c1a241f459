import { sql } from 'drizzle-orm';
import type { EmailSender, SenderExchange } from '@ascenso/contracts';
import { emailSteps, type Command, type Sequence } from '@ascenso/core';
import { invalid } from '../app/errors.ts';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { saveDraft } from './drafts.ts';

/** Who every email of every draft says it is from, sequence by sequence. */
export async function sendersOfEmails(db: Executor, ws: string): Promise<EmailSender[]> {
  const drafts = await rows<{ id: string; name: string; live: boolean; draft: Sequence }>(
    db,
    sql`select id, name, live_version is not null as live, draft from sequences where workspace_id = ${ws} and listed and status <> 'archived' order by name, id`,
  );
  return drafts.flatMap(({ id, name, live, draft }) =>
    emailSteps(draft).map((step) => ({
      sequence: { id, name, live },
      step: step.id,
      name: step.name,
      sender: step.email.sender,
    })),
  );
}

/** Gives emails another sender, as one edit of each draft that its author can take back. All of them, or none. */
export async function exchangeSender(
  tx: Tx,
  ws: string,
  userId: string,
  { sender, emails }: SenderExchange,
  now: number,
): Promise<void> {
  if (
    sender !== '' &&
    !(await firstRow(tx, sql`select 1 from senders where workspace_id = ${ws} and id::text = ${sender}`))
  )
    throw invalid('sender', 'There is no such sender.');
  // In one order, so that two who do this at once wait for each other and not in a circle.
  for (const id of [...new Set(emails.map((e) => e.sequence))].sort()) {
    const draft = await firstRow<{ revision: number }>(
      tx,
      sql`select revision from sequences where workspace_id = ${ws} and id = ${id} for update`,
    );
    if (!draft) throw invalid('emails', 'One of the sequences is gone. Look at the list again.');
    const commands = emails
      .filter((e) => e.sequence === id)
      .map((e): Command => ({ type: 'email.set', step: e.step, field: 'sender', value: sender }));
    await saveDraft(tx, ws, id, userId, { base: draft.revision, edits: [{ role: 'edit', commands }] }, now);
  }
}
