import { sql } from 'drizzle-orm';
import { HOUR, MINUTE } from '@ascenso/core';
import type { Executor, Tx } from '../db/connect.ts';
import { batch, firstRow } from '../db/rows.ts';

// One row never stops the rest: what cannot be handled is set aside with its reason, shown under "Needs a look", and tried
// again by itself with growing pauses.

export type AsideKind = 'visit' | 'send' | 'sweep' | 'notice' | 'offer';

/** Waits before something that has failed is tried again, ms on the business clock; the last one is repeated. */
const PAUSES = [MINUTE, 5 * MINUTE, 30 * MINUTE, 2 * HOUR, 8 * HOUR, 24 * HOUR];

/**
 * Errors that are nobody's row: the database or the network is away, or two transactions were in each other's way
 * (SQLSTATE classes 08, 40, 53, 55, 57, 58, and 25 for a transaction that was ended). The work is done again as it was.
 */
const PASSING = /^(08|25|40|53|55|57|58)/;
const AWAY = /Connection terminated|timeout exceeded|connect E|Client has encountered|server conn crashed/i;

function causeOf(error: unknown): Error & { code?: unknown } {
  return error instanceof Error && error.cause instanceof Error ? causeOf(error.cause) : (error as Error);
}

/** Whether an error is a row's own, and not of the moment. */
export function isOfTheRow(error: unknown): boolean {
  const cause = causeOf(error);
  const code = typeof cause?.code === 'string' ? cause.code : '';
  return !(PASSING.test(code) || /^E[A-Z]+$/.test(code) || AWAY.test(String(cause?.message)));
}

/** What is shown of an error: its own words, without what a database driver adds to them. */
const reasonOf = (error: unknown): string =>
  String(causeOf(error)?.message ?? error)
    .replace(/[.\s]{1,20}$/, '')
    .slice(0, 300);

export interface Aside {
  w: string;
  kind: AsideKind;
  item: string;
  sequence: string | null;
  person: string | null;
}

/** Notes that something failed once more. Answers when it is tried again (business clock, epoch ms), and how often it has failed. */
export async function setAside(
  db: Executor,
  what: Aside,
  error: unknown,
  now: number,
): Promise<{ nextAt: number; failures: number; reason: string }> {
  const reason = reasonOf(error);
  const known = await firstRow<{ failures: number }>(
    db,
    sql`select failures from set_aside where workspace_id = ${what.w} and kind = ${what.kind} and item = ${what.item}`,
  );
  const failures = (known?.failures ?? 0) + 1;
  const nextAt = now + (PAUSES[Math.min(failures, PAUSES.length) - 1] ?? HOUR);
  await db.execute(sql`
    insert into set_aside (workspace_id, kind, item, sequence_id, person_id, reason, failures, since, next_at)
    values (${what.w}, ${what.kind}, ${what.item}, ${what.sequence}, ${what.person}, ${reason}, 1, ${now}, ${nextAt})
    on conflict (workspace_id, kind, item) do update set reason = excluded.reason, failures = set_aside.failures + 1, next_at = excluded.next_at`);
  return { nextAt, failures, reason };
}

/** Tries all that a workspace has set aside in the next round: somebody has mended the cause. */
export async function tryAsideNow(tx: Tx, ws: string, now: number): Promise<void> {
  const those = (kind: AsideKind) => sql`(select item from set_aside where workspace_id = ${ws} and kind = ${kind})`;
  await tx.execute(
    sql`update visits set wake_at = ${now} where workspace_id = ${ws} and status = 'active' and id::text in ${those('visit')}`,
  );
  await tx.execute(
    sql`update sends set next_at = ${now} where workspace_id = ${ws} and status = 'queued' and (id::text in ${those('send')} or visit_id::text in ${those('visit')})`,
  );
  await tx.execute(
    sql`update notices set next_at = ${now} where workspace_id = ${ws} and status = 'queued' and id::text in ${those('notice')}`,
  );
  await tx.execute(
    sql`update sweeps set next_at = ${now} where workspace_id = ${ws} and sequence_id || ' ' || key in ${those('sweep')}`,
  );
  // An end that could not be told is not told again: it has been seen.
  await tx.execute(sql`delete from set_aside where workspace_id = ${ws} and kind = 'offer'`);
  await tx.execute(sql`update set_aside set next_at = ${now} where workspace_id = ${ws}`);
}

/** What was handled after all is not shown any more. */
export async function handled(
  db: Executor,
  kind: AsideKind,
  items: readonly { w: string; item: string }[],
): Promise<void> {
  if (items.length === 0) return;
  await db.execute(
    sql`delete from set_aside a using jsonb_to_recordset(${batch(items)}) as n(w uuid, item text) where a.workspace_id = n.w and a.kind = ${kind} and a.item = n.item`,
  );
}

/**
 * Does work over some items; where a row among them makes it fail, finds that one by halves and hands it to `aside`. The
 * work must leave nothing behind when it fails: a transaction.
 */
export async function isolating<T>(
  items: readonly T[],
  work: (some: readonly T[]) => Promise<void>,
  aside: (item: T, error: unknown) => Promise<void>,
): Promise<void> {
  if (items.length === 0) return;
  try {
    await work(items);
  } catch (error) {
    if (!isOfTheRow(error)) throw error;
    if (items.length === 1) return aside(items[0] as T, error);
    const middle = Math.ceil(items.length / 2);
    await isolating(items.slice(0, middle), work, aside);
    await isolating(items.slice(middle), work, aside);
  }
}

/** Runs part of a transaction so that its failure undoes that part alone. Answers the error, or null. */
export async function attempt(tx: Tx, work: (part: Tx) => Promise<void>): Promise<unknown> {
  try {
    await tx.transaction(work);
    return null;
  } catch (error) {
    if (!isOfTheRow(error)) throw error;
    return error;
  }
}
