import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Db } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { sends } from '../db/schema/index.ts';
import { transact } from '../db/transact.ts';
import type { Outcome, Report } from '../mail/reports.ts';
import type { SendKey } from '../mail/token.ts';
import { haltIfTooMany } from './halting.ts';
import { storeInternalEvent } from './internal-events.ts';
import { bounced, complained, unsubscribe } from './permission.ts';

/** So many soft returns, of emails that differ, and an address is given up. */
const SOFT_LIMIT = 5;

const one = (key: SendKey) => and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId));
const OF_SEND = { person: sends.personId, visit: sends.visitId, sequence: sends.sequenceId, dueAt: sends.dueAt };

/** What a report says of the one recipient that was ours: of several the one with their address, else the first that failed. */
function ofOurs({ failed, others }: Returned, to: string | null): Outcome | undefined {
  const own = to?.toLowerCase() ?? '';
  return failed.find((o) => o.to === own) ?? (others.includes(own) ? undefined : failed[0]);
}

type Returned = Pick<Extract<Report, { kind: 'bounce' }>, 'failed' | 'others'>;

/** An email came back. What is final ends mail to the address; what may pass adds up. Told twice, it counts once. */
export async function cameBack(db: Db, key: SendKey, report: Returned, now: number): Promise<void> {
  await transact(db, async (tx) => {
    const [sent] = await tx.select({ to: sends.to }).from(sends).where(one(key));
    const ours = ofOurs(report, sent?.to ?? null);
    if (!ours) return;
    const { hard, status, words } = ours;
    const [send] = await tx
      .update(sends)
      .set({ returnedAt: now, ...(hard ? { status: 'bounced' as const } : {}) })
      .where(and(one(key), isNull(sends.returnedAt)))
      .returning(OF_SEND);
    if (!send) return;
    const ws = key.workspaceId;
    await storeInternalEvent(tx, ws, send.person, 'email.returned', { final: hard, status, answer: words }, now);
    if (hard) {
      await bounced(tx, ws, send.person, now);
      return haltIfTooMany(tx, ws, send, 'bounced', now);
    }
    const soft = await firstRow<{ n: number }>(
      tx,
      sql`update people set soft_bounces = soft_bounces + 1 where workspace_id = ${ws} and id = ${send.person} returning soft_bounces as n`,
    );
    if ((soft?.n ?? 0) >= SOFT_LIMIT) await bounced(tx, ws, send.person, now);
  });
}

/** Somebody told their provider that they want no more of it: they are off, as if they had said so to us. */
export async function optedOut(db: Db, key: SendKey, now: number): Promise<void> {
  await transact(db, async (tx) => {
    const [send] = await tx.select(OF_SEND).from(sends).where(one(key));
    if (send) await unsubscribe(tx, key.workspaceId, send.person, now, { how: 'complaint', label: '', words: '' });
  });
}

/** Somebody called an email spam. Told twice, it counts once. */
export async function calledSpam(db: Db, key: SendKey, now: number): Promise<void> {
  await transact(db, async (tx) => {
    const ws = key.workspaceId;
    const [send] = await tx
      .update(sends)
      .set({ complainedAt: now })
      .where(and(one(key), isNull(sends.complainedAt)))
      .returning(OF_SEND);
    if (!send) return;
    await complained(tx, ws, send.person, now, { how: 'complaint', label: '', words: '' });
    await haltIfTooMany(tx, ws, send, 'complained', now);
  });
}
