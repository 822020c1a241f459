import { and, eq, isNull, lt, sql } from 'drizzle-orm';
import type { Executor } from '../db/connect.ts';
import { mailService } from '../db/schema/index.ts';
import type { Stage } from '../mail/refusal.ts';

// The service that takes our mail, as it stands. While it says no before any message is offered (a password that is wrong, a
// certificate that is not believed, a server that is away), no email is spent on it: all wait, one is tried now and then.

/** Pauses between tries, ms of the system clock; the last goes on. */
const PAUSES = [5_000, 10_000, 15_000, 30_000, 60_000];

export interface Held {
  since: number;
  nextTryAt: number;
  tries: number;
  answer: string;
  stage: string;
}

/** What keeps all mail back, or undefined while it goes out. */
export async function heldService(db: Executor): Promise<Held | undefined> {
  const [row] = await db.select().from(mailService).where(eq(mailService.id, 1));
  return row;
}

/** The service said no before a message was offered: everything waits. */
export async function holdService(db: Executor, stage: Stage, answer: string): Promise<void> {
  const now = Date.now();
  const words = answer.slice(0, 300);
  // The pause grows with each try, in the statement itself: processes that find it out together count one after the other.
  const pauses = sql.raw(`(array[${PAUSES.join(', ')}])`);
  await db.execute(sql`
    insert into mail_service (id, since, next_try_at, tries, answer, stage) values (1, ${now}, ${now + (PAUSES[0] ?? 0)}, 1, ${words}, ${stage})
    on conflict (id) do update set tries = mail_service.tries + 1, answer = excluded.answer, stage = excluded.stage,
      next_try_at = ${now}::bigint + ${pauses}[least(mail_service.tries + 1, ${PAUSES.length})]`);
}

/** Mail that is kept back so long is told by another way, ms: a restart of the service is no news. */
const NEWS_AFTER = 60_000;
const ALERT_PATIENCE_MS = 10_000;

/**
 * Tells whoever runs this, once for each time that mail is kept back, by a POST of `{"text": "…"}` to an address of their own.
 * Answers whether there was something to tell. Where it cannot be told it is tried again with the next look.
 */
export async function tellOfHold(db: Executor, alertUrl: string, now: number): Promise<boolean> {
  const [held] = await db
    .select()
    .from(mailService)
    .where(and(isNull(mailService.toldAt), lt(mailService.since, now - NEWS_AFTER)));
  if (!held) return false;
  const text = `Ascenso: mail is not going out since ${new Date(held.since).toISOString()}. The mail service says: ${held.answer}. No email is lost; all go out once it is mended.`;
  const answer = await fetch(alertUrl, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ text }),
    signal: AbortSignal.timeout(ALERT_PATIENCE_MS),
  });
  await answer.body?.cancel();
  if (!answer.ok) throw new Error(`ALERT_URL answered ${answer.status}.`);
  await db.update(mailService).set({ toldAt: now });
  return true;
}

/** It took a message: everything goes on. */
export async function serviceWell(db: Executor): Promise<void> {
  await db.delete(mailService);
}

/** Tries it at once: somebody has mended something. Answers false where nothing was held. */
export async function tryServiceNow(db: Executor): Promise<boolean> {
  const tried = await db.update(mailService).set({ nextTryAt: 0 }).returning({ id: mailService.id });
  return tried.length > 0;
}
