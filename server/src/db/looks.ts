import { sql } from 'drizzle-orm';
import type { AsideRow, HaltedSender, Looks, MailHold, StoppedSequence } from '@ascenso/contracts';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';
import { unmetOf } from './unmet.ts';

/** Reasons that are told one by one: more of them say no more. */
const TOLD = 50;

/** What the engine cannot do by itself: what is set aside, by its reason, and senders whose mail waits. */
export async function looksOf(db: Executor, ws: string, now: number, log: Looks['log']): Promise<Looks> {
  const mail = await firstRow<MailHold>(
    db,
    sql`select ${Date.now()}::bigint - m.since as "forMs", greatest(0, m.next_try_at - ${Date.now()}::bigint) as "nextTryInMs", m.answer, w.waiting, w.oldest from mail_service m
        cross join lateral (select count(*) as waiting, min(s.due_at) as oldest from sends s
          where s.workspace_id = ${ws} and s.status in ('queued', 'leased') and s.next_at <= ${now}) w`,
  );
  const aside = await rows<
    Omit<AsideRow, 'sequence' | 'person'> & {
      sequence: string | null;
      name: string | null;
      person: string | null;
      email: string | null;
    }
  >(
    db,
    sql`select a.kind, a.sequence_id as sequence, s.name, a.reason, a.count, a.since, a."nextAt", p.id as person, p.email from (
          select kind, sequence_id, reason, count(*) as count, min(since) as since, min(next_at) as "nextAt", (array_agg(person_id order by since) filter (where person_id is not null))[1] as person_id
          from set_aside where workspace_id = ${ws} group by 1, 2, 3 order by min(since) limit ${TOLD}) a
        left join sequences s on s.workspace_id = ${ws} and s.id = a.sequence_id left join people p on p.workspace_id = ${ws} and p.id = a.person_id`,
  );
  const halted = await rows<HaltedSender>(
    db,
    sql`select h.email, coalesce(h.halted_at, h.put_off_since) as since, h.answer, h.halted_at is not null as stopped,
          (select count(*) from sends s join programs p on p.workspace_id = s.workspace_id and p.hash = s.program_hash
           where s.workspace_id = h.workspace_id and s.status = 'queued' and p.sender->>'email' = h.email) as waiting
        from sender_health h where h.workspace_id = ${ws} and (h.halted_at is not null or h.put_off_since is not null) order by h.email`,
  );
  const stopped = await rows<StoppedSequence>(
    db,
    sql`select id, name, paused_at as since, halted as halt from sequences where workspace_id = ${ws} and status = 'paused' and halted is not null order by name`,
  );
  return {
    mail: mail ?? null,
    log,
    aside: aside.map(({ sequence, name, person, email, ...a }) => ({
      ...a,
      sequence: sequence && name !== null ? { id: sequence, name } : null,
      person: person && email ? { id: person, email } : null,
    })),
    // Nothing of it waits any more: what was put off has been taken back.
    halted: halted.filter((h) => h.stopped || h.waiting > 0),
    stopped,
    unmet: await unmetOf(db, ws, now),
  };
}
