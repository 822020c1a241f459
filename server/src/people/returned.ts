import { and, eq, isNull, sql } from 'drizzle-orm';
import type { Db, Tx } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { people, sends } from '../db/schema/index.ts';
import { transact } from '../db/transact.ts';
import type { SendKey } from '../mail/token.ts';
import { noteConsent } from './consent.ts';
import { storeInternalEvent } from './internal-events.ts';
import { bounced } from './permission.ts';
import { wakeVisits } from './visits.ts';

/** So many soft returns, of emails that differ, and an address is given up. */
const SOFT_LIMIT = 5;

/** An email comes back once: told twice, it counts once. Answers whom it was for. */
async function firstReturn(tx: Tx, key: SendKey, hard: boolean, at: number): Promise<string | undefined> {
  const [send] = await tx
    .update(sends)
    .set({ returnedAt: at, ...(hard ? { status: 'bounced' as const } : {}) })
    .where(and(eq(sends.workspaceId, key.workspaceId), eq(sends.id, key.sendId), isNull(sends.returnedAt)))
    .returning({ person: sends.personId });
  return send?.person;
}

/** An email came back. What is final ends mail to the address; what may pass adds up. */
export async function cameBack(
  db: Db,
  key: SendKey,
  { hard, status, words }: { hard: boolean; status: string; words: string },
  now: number,
): Promise<void> {
  await transact(db, async (tx) => {
    const person = await firstReturn(tx, key, hard, now);
    if (!person) return;
    const ws = key.workspaceId;
    await storeInternalEvent(tx, ws, person, 'email.returned', { final: hard, status, answer: words }, now);
    if (hard) return bounced(tx, ws, person, now);
    const soft = await firstRow<{ n: number }>(
      tx,
      sql`update people set soft_bounces = soft_bounces + 1 where workspace_id = ${ws} and id = ${person} returning soft_bounces as n`,
    );
    if ((soft?.n ?? 0) >= SOFT_LIMIT) await bounced(tx, ws, person, now);
  });
}

/** Somebody called an email spam: all marketing to them ends at once, and does not begin again by itself. */
export async function complained(db: Db, key: SendKey, now: number): Promise<void> {
  await transact(db, async (tx) => {
    const ws = key.workspaceId;
    const send = await firstRow<{ person: string }>(
      tx,
      sql`select person_id as person from sends where workspace_id = ${ws} and id = ${key.sendId}`,
    );
    if (!send) return;
    const [changed] = await tx
      .update(people)
      .set({ complainedAt: now })
      .where(and(eq(people.workspaceId, ws), eq(people.id, send.person), isNull(people.complainedAt)))
      .returning({ id: people.id });
    if (!changed) return;
    const source = { how: 'complaint', label: '', words: '' } as const;
    await noteConsent(tx, ws, send.person, { list: null, what: 'left', at: now, source });
    await storeInternalEvent(tx, ws, send.person, 'complained', {}, now);
    await wakeVisits(tx, ws, send.person, now);
  });
}
