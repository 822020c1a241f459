import { sql } from 'drizzle-orm';
import { sha256 } from '../app/hash.ts';
import { newId } from '../app/ids.ts';
import { returnedUnread } from '../app/metrics.ts';
import type { Db } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { transact } from '../db/transact.ts';
import type { Letter } from '../mail/reports.ts';
import type { SendKey } from '../mail/token.ts';
import { storeInternalEvent } from './internal-events.ts';

/** How much of what is not understood is shown in the story. */
const SHOWN = 300;
/** Answers of one passage that are handed on: whoever has an email can write to its path as often as they like. */
const MOST_ANSWERS = 5;

interface Answered {
  visit: string | null;
  sequence: string;
  version: number;
  person: string;
  /** Whom answers go to: as the email says, else its sender. */
  to: string;
}

/**
 * Something that is no report came back to the path of an email. What a person wrote is handed on to whom answers go to; what a
 * mail system said and we do not understand is in the story, and counted. A holiday says nothing.
 */
export async function wroteBack(
  db: Db,
  { workspaceId: ws, sendId }: SendKey,
  letter: Letter,
  now: number,
): Promise<void> {
  if (letter.by === 'answerer') return;
  await transact(db, async (tx) => {
    const of = await firstRow<Answered>(
      tx,
      sql`select s.visit_id as visit, s.sequence_id as sequence, s.version, s.person_id as person, coalesce(nullif(p.program->>'replyTo', ''), p.sender->>'email') as "to"
          from sends s join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash where s.workspace_id = ${ws} and s.id = ${sendId}`,
    );
    if (!of) return;
    if (letter.by === 'system') {
      returnedUnread.inc();
      const words = `${letter.subject}: ${letter.text}`.replace(/\s+/g, ' ').trim().slice(0, SHOWN);
      return storeInternalEvent(tx, ws, of.person, 'email.unread', { words }, now);
    }
    if (of.visit === null) return;
    const text = JSON.stringify(letter);
    await tx.execute(sql`
      insert into notices (workspace_id, id, visit_id, sequence_id, version, step, person_id, kind, "to", text, status, due_at, next_at)
      select ${ws}::uuid, ${newId()}::uuid, ${of.visit}::uuid, ${of.sequence}::uuid, ${of.version}::int, ${`answer ${sha256(text).slice(0, 16)}`}, ${of.person}::uuid, 'answer', ${of.to}, ${text}, 'queued', ${now}::bigint, ${now}::bigint
      where (select count(*) from notices n where n.workspace_id = ${ws} and n.visit_id = ${of.visit} and n.kind = 'answer') < ${MOST_ANSWERS}
      on conflict do nothing`);
  });
}
