import { sql } from 'drizzle-orm';
import { blankEmail, blankSequence, difference, emailSteps, type Sequence } from '@ascenso/core';
import { newId } from '../app/ids.ts';
import type { Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { addDraft, deleteSequences } from '../db/sequences.ts';
import type { Template } from '../db/templates.ts';
import { saveDraft } from './drafts.ts';

// A template is written where every email is: in the draft of a sequence, of that one email, which is in no list and never
// goes out. What is saved there is the template at once; what is changed of the template elsewhere becomes an edit there.

const draftOf = (tx: Tx, ws: string, template: string) =>
  firstRow<{ id: string; revision: number; draft: Sequence }>(
    tx,
    sql`select id, revision, draft from sequences where workspace_id = ${ws} and template_id = ${template} for update`,
  );

/** The draft in which a template is written, made where there is none yet, and its one step. */
export async function openTemplate(
  tx: Tx,
  ws: string,
  { id, name, email }: Template,
  now: number,
): Promise<{ sequence: string; step: string }> {
  // Two who open it at once come into the same draft.
  await tx.execute(sql`select 1 from templates where workspace_id = ${ws} and id = ${id} for update`);
  const known = await draftOf(tx, ws, id);
  const [there] = known ? emailSteps(known.draft) : [];
  if (known && there) return { sequence: known.id, step: there.id };
  if (known) await dropTemplateDraft(tx, ws, id);
  // Written as an email that readers can leave, as nearly all are: its foot has to be seen.
  const list = await firstRow<{ id: string }>(
    tx,
    sql`select id from lists where workspace_id = ${ws} order by name limit 1`,
  );
  const step = { ...blankEmail(newId, name), email };
  const draft: Sequence = { ...blankSequence(name, list?.id ?? null), triggers: [{ kind: 'hand' }], steps: [step] };
  return { sequence: await addDraft(tx, ws, draft, now, { template: id }), step: step.id };
}

/** Makes the draft of a template, where there is one, say what the template says now: an edit that others see at once. */
export async function followTemplate(
  tx: Tx,
  ws: string,
  user: string,
  { id, name, email }: Template,
  now: number,
): Promise<void> {
  const known = await draftOf(tx, ws, id);
  if (!known) return;
  const wanted = {
    ...known.draft,
    name,
    steps: known.draft.steps.map((s) => (s.kind === 'email' ? { ...s, name, email } : s)),
  };
  const commands = difference(known.draft, wanted);
  if (commands.length > 0)
    await saveDraft(tx, ws, known.id, user, { base: known.revision, edits: [{ role: 'edit', commands }] }, now);
}

/** Lets go of the draft of a template that is deleted. */
export const dropTemplateDraft = (tx: Tx, ws: string, template: string): Promise<void> =>
  deleteSequences(tx, ws, sql`template_id = ${template}`);
