import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Db } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { sends } from '../db/schema/index.ts';
import { transact } from '../db/transact.ts';
import type { SendKey } from '../mail/token.ts';
import { haltIfTooMany } from './halting.ts';
import { storeInternalEvent } from './internal-events.ts';
import { bounced, complained } from './permission.ts';

/** So many soft returns, of emails that differ, and an address is given up. */
const SOFT_LIMIT = 5;

const one = (key: SendKey) => and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId));
const OF_SEND = { person: sends.personId, visit: sends.visitId, sequence: sends.sequenceId, dueAt: sends.dueAt };

/** An email came back. What is final ends mail to the address; what may pass adds up. Told twice, it counts once. */
export async function cameBack(
  db: Db,
  key: SendKey,
  { hard, status, words }: { hard: boolean; status: string; words: string },
  now: number,
): Promise<void> {
  await transact(db, async (tx) => {
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
