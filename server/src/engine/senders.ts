import { and, eq, gt, isNotNull, isNull, or, sql } from 'drizzle-orm';
import type { Executor, Tx } from '../db/connect.ts';
import { firstRow, rows } from '../db/rows.ts';
import { senderHealth } from '../db/schema/index.ts';

// How senders fare. A server that refuses ten emails of one sender in a row refuses the sender, whatever it says of the
// emails: the rest of that sender's mail waits until somebody has had a look, instead of failing one by one.

/** Refusals in a row after which a sender's mail waits. */
export const REFUSALS_IN_A_ROW = 10;
/** Next try of mail that waits for somebody: never by itself. */
export const WAITS = Number.MAX_SAFE_INTEGER;

const OF_SENDER = (ws: string, email: string) =>
  sql`s.workspace_id = ${ws} and s.program_hash in (select hash from programs p where p.workspace_id = ${ws} and p.sender->>'email' = ${email})`;

/** Senders of these workspaces whose mail waits, as `workspace/address`. */
export async function haltedSenders(db: Executor, workspaces: readonly string[]): Promise<Set<string>> {
  const found = await rows<{ w: string; email: string }>(
    db,
    sql`select workspace_id as w, email from sender_health where halted_at is not null and workspace_id = any (${sql.param(workspaces)}::uuid[])`,
  );
  return new Set(found.map((f) => `${f.w}/${f.email}`));
}

/**
 * One more refusal that was not about the reader's address. After ten in a row all queued mail of the sender waits. Answers
 * whether it does.
 */
export async function noteRefusal(tx: Tx, ws: string, email: string, answer: string, now: number): Promise<boolean> {
  const row = await firstRow<{ halted_at: number | null; refusals: number }>(
    tx,
    sql`insert into sender_health (workspace_id, email, refusals, halted_at, answer) values (${ws}, ${email}, 1, null, ${answer.slice(0, 300)})
        on conflict (workspace_id, email) do update set refusals = sender_health.refusals + 1, answer = excluded.answer returning halted_at, refusals`,
  );
  if (!row || row.halted_at !== null) return row !== undefined;
  if (row.refusals < REFUSALS_IN_A_ROW) return false;
  await tx.execute(
    sql`update sender_health set halted_at = ${now} where workspace_id = ${ws} and email = ${email} and halted_at is null`,
  );
  await tx.execute(
    sql`update sends s set next_at = ${WAITS} where s.status = 'queued' and s.visit_id is not null and ${OF_SENDER(ws, email)}`,
  );
  return true;
}

/** "Not now" to a sender, before any reader was named. It is tried again by itself; on the first screen it is told. */
export const notePutOff = (tx: Tx, ws: string, email: string, answer: string, now: number) =>
  tx.execute(
    sql`insert into sender_health (workspace_id, email, refusals, halted_at, put_off_since, answer) values (${ws}, ${email}, 0, null, ${now}, ${answer.slice(0, 300)})
        on conflict (workspace_id, email) do update set put_off_since = coalesce(sender_health.put_off_since, excluded.put_off_since), answer = excluded.answer`,
  );

/** An email of a sender was taken: the row of refusals is broken, and nothing puts it off any more. */
export async function noteAccepted(db: Executor, ws: string, email: string): Promise<void> {
  await db
    .update(senderHealth)
    .set({ refusals: 0, putOffSince: null })
    .where(
      and(
        eq(senderHealth.workspaceId, ws),
        eq(senderHealth.email, email),
        or(gt(senderHealth.refusals, 0), isNotNull(senderHealth.putOffSince)),
        isNull(senderHealth.haltedAt),
      ),
    );
}

/** Lets a sender's mail go again: somebody has had a look. Answers how many emails go on; undefined where none waited. */
export async function letSenderGo(tx: Tx, ws: string, email: string, now: number): Promise<number | undefined> {
  const halted = await firstRow(
    tx,
    sql`delete from sender_health where workspace_id = ${ws} and email = ${email} and halted_at is not null returning email`,
  );
  if (!halted) return undefined;
  const gone = await rows(
    tx,
    sql`update sends s set next_at = greatest(s.due_at, ${now}) where s.status = 'queued' and s.next_at = ${WAITS} and ${OF_SENDER(ws, email)} returning 1`,
  );
  return gone.length;
}
