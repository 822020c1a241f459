import { sql } from 'drizzle-orm';
import { loadAttachments } from '../../db/attachments.ts';
import type { Executor } from '../../db/connect.ts';
import { unpackValues } from '../../db/packed.ts';
import { rows } from '../../db/rows.ts';
import { loadProgram } from '../../db/versions.ts';
import { messageOf } from '../../engine/message.ts';
import { returnPath } from '../../mail/return-path.ts';
import type { Signs } from './signs.ts';

/** Messages that are made and handed over at once. */
const AT_ONCE = 100;

interface Sent {
  id: string;
  workspace_id: string;
  program_hash: string;
  due_at: number;
  to: string;
  values: Buffer;
  list_id: string | null;
  list_name: string | null;
}

const sentOf = (db: Executor, ids: readonly string[]): Promise<Sent[]> =>
  rows<Sent>(
    db,
    sql`select s.id, s.workspace_id, s.program_hash, s.due_at, s."to", s.values, l.id as list_id, l.name as list_name
        from unnest(${sql.param(ids)}::uuid[]) with ordinality as asked(id, n)
        join sends s on s.id = asked.id
        left join versions v on v.workspace_id = s.workspace_id and v.sequence_id = s.sequence_id and v.number = s.version
        left join lists l on l.workspace_id = s.workspace_id and l.id::text = v.doc->>'list'
        order by asked.n`,
  );

/** A message as the mailbox takes it: the path it comes back by, whom it is for, and its source. */
export interface Handed {
  path: string;
  to: string;
  source: string;
}

/** Makes the messages of some emails anew from what they were filled with, batch by batch in the given order. */
export async function* messagesAgain(
  db: Executor,
  { secret, words: { base } }: Signs,
  returnDomain: string | null,
  ids: readonly string[],
): AsyncGenerator<Handed[]> {
  for (let from = 0; from < ids.length; from += AT_ONCE) {
    const out: Handed[] = [];
    const asked = ids.slice(from, from + AT_ONCE);
    const found = await sentOf(db, asked);
    // A message to the team is no email, and would be missing without a word.
    if (found.length < asked.length)
      throw new Error(`${asked.length - found.length} messages of the mailbox are no emails that could be made again.`);
    for (const sent of found) {
      const program = await loadProgram(db, sent.workspace_id, sent.program_hash);
      const files = await loadAttachments(db, sent.workspace_id, program.program.attachments);
      const values = unpackValues(sent.values, program.dictionary);
      const source = messageOf(sent, program, sent.to, values, { base, secret }, files);
      const key = { workspaceId: sent.workspace_id, sendId: sent.id };
      const path = returnDomain ? returnPath(secret, key, returnDomain) : program.sender.email;
      out.push({ path, to: sent.to, source });
    }
    yield out;
  }
}
