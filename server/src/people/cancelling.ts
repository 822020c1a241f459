import { sql, type SQL } from 'drizzle-orm';
import type { Tx } from '../db/connect.ts';
import { batch, rows } from '../db/rows.ts';
import { freeUnsent } from './grants.ts';
import { writeTraces } from './traces.ts';

interface Cancelled {
  w: string;
  id: string;
  visit: string | null;
  person: string;
  seq: string;
  version: number;
  step: string;
}

const CANCELLED = sql`s.workspace_id as w, s.id, s.visit_id as visit, s.person_id as person, s.sequence_id as seq, s.version, s.step, s.cap_day`;

/** What a cancelled email had taken up is free again: its place under the daily cap, and what was reserved for it. */
async function cancel(tx: Tx, which: SQL): Promise<Cancelled[]> {
  const cancelled = await rows<Cancelled>(
    tx,
    sql`with gone as (
          update sends s set status = 'cancelled', lease_until = null where ${which} returning ${CANCELLED}),
        back as (
          update mail_days d set given = greatest(0, d.given - g.n)
          from (select w, person, cap_day, count(*) as n from gone where cap_day is not null group by 1, 2, 3) g
          where d.workspace_id = g.w and d.person_id = g.person and d.day = g.cap_day)
        select w, id, visit, person, seq, version, step from gone order by id`,
  );
  await freeUnsent(
    tx,
    cancelled.filter((c) => c.visit !== null),
  );
  return cancelled;
}

/** How a cancelled email is told in the person's story. */
export interface Why {
  /** A word of the sentence (core's trace), such as "goal". */
  why: string;
  /** Business clock, epoch ms. */
  at: number;
  code?: 'email-cancelled' | 'email-too-late';
}

const tell = (tx: Tx, cancelled: readonly Cancelled[], why: (id: string) => string, { at, code }: Omit<Why, 'why'>) =>
  writeTraces(
    tx,
    cancelled.flatMap(({ visit, w, id, person, seq, version, step }) =>
      visit === null
        ? []
        : [{ w, person, visit, seq, version, at, step, code: code ?? 'email-cancelled', data: { why: why(id) } }],
    ),
  );

/**
 * Takes back emails of sequences: those that are queued, and those that a crashed sender had leased, at once; one that is
 * under way is marked, so that it is not tried again should it come back unsent. `which` is about `sends s`.
 */
export async function recallEmails(tx: Tx, which: SQL, why: Why): Promise<void> {
  const ours = sql`s.visit_id is not null and ${which}`;
  const cancelled = await cancel(
    tx,
    sql`(s.status = 'queued' or s.status = 'leased' and s.lease_until < ${Date.now()}) and ${ours}`,
  );
  await tell(tx, cancelled, () => why.why, why);
  await tx.execute(sql`update sends s set revoked = ${why.why} where s.status = 'leased' and ${ours}`);
}

/** Cancels emails that their sender has just leased, each for a reason of its own. */
export async function cancelLeased(
  tx: Tx,
  leased: readonly { w: string; id: string; why: string }[],
  at: number,
): Promise<void> {
  if (leased.length === 0) return;
  const cancelled = await cancel(
    tx,
    sql`(s.workspace_id, s.id) in (select w, id from jsonb_to_recordset(${batch(leased)}) as n(w uuid, id uuid)) and s.status in ('leased', 'queued')`,
  );
  const whys = new Map(leased.map((l) => [l.id, l.why]));
  await tell(tx, cancelled, (id) => whys.get(id) ?? '', { at });
}
