import { sql } from 'drizzle-orm';
import { businessNow, clockState, MOVER_LOCK, runFrom, standAt } from '../app/clock.ts';
import { UserError } from '../app/errors.ts';
import type { Connection } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { advanceRound } from './advance-loop.ts';
import { sendRound, type SendSettings } from './send-loop.ts';

/** The simulated people, as the mover sees them: they act on what is due, and say when they will act next. */
export interface Crowd {
  act: (now: number) => Promise<{ acted: number; nextAt: number | null }>;
}

/** First moment at which something is due: a visit, or a send in the queue. */
async function nextDue(connection: Connection): Promise<number | null> {
  const row = await firstRow<{ at: number | null }>(
    connection.db,
    sql`select least(
          (select next_due_at from visits v where status = 'active'
             and exists (select 1 from sequences s where s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.status <> 'paused')
           order by next_due_at limit 1),
          (select next_at from sends s where status in ('queued', 'leased')
             and not exists (select 1 from sequences q where q.workspace_id = s.workspace_id and q.id = s.sequence_id and q.status = 'paused' and s.visit_id is not null)
           order by next_at limit 1)) as at`,
  );
  return row?.at ?? null;
}

/** Works until nothing is due at `now`, whoever does it. Answers the next moment at which something is due. */
async function settleAt(connection: Connection, settings: SendSettings, now: number): Promise<number | null> {
  for (;;) {
    const due = await nextDue(connection);
    if (due === null || due > now) return due;
    const done = (await advanceRound(connection, now)) + (await sendRound(connection, settings, now));
    // Another process holds what is left: give it a moment on the system clock.
    if (done === 0) await new Promise((resolve) => setTimeout(resolve, 10));
  }
}

/** One moment of a move: engine and people take turns until neither has anything left to do. Answers the next one. */
async function stepAt(
  connection: Connection,
  settings: SendSettings,
  now: number,
  crowd: Crowd | null,
): Promise<number> {
  for (;;) {
    const due = await settleAt(connection, settings, now);
    const { acted, nextAt } = crowd ? await crowd.act(now) : { acted: 0, nextAt: null };
    if (acted === 0) return Math.min(due ?? Infinity, nextAt ?? Infinity);
  }
}

/**
 * Moves the practice clock ahead to `target` (epoch ms) by standing still at every due moment on the way, in order.
 * One mover at a time, under an advisory lock. Throws UserError when the clock is real or another move is on.
 */
export async function moveClock(
  connection: Connection,
  settings: SendSettings,
  target: number,
  crowd: Crowd | null,
  onStep: (now: number) => void = () => undefined,
): Promise<void> {
  const client = await connection.pool.connect();
  try {
    const state = await clockState(connection.db);
    if (!state.practice)
      throw new UserError(409, 'real-clock', 'This installation runs on the real clock, which cannot be moved.');
    const { rows } = await client.query<{ got: boolean }>('select pg_try_advisory_lock($1) as got', [MOVER_LOCK]);
    if (!rows[0]?.got)
      throw new UserError(409, 'moving', 'The clock is already being moved. Wait until it has arrived.');
    let now = await businessNow(connection.db);
    while (now <= target) {
      await standAt(connection.db, now);
      onStep(now);
      const next = await stepAt(connection, settings, now, crowd);
      if (next > target) break;
      now = Math.max(next, now);
    }
    if (state.standing) await standAt(connection.db, target);
    else await runFrom(connection.db, target);
  } finally {
    await client.query('select pg_advisory_unlock($1)', [MOVER_LOCK]).catch(() => undefined);
    client.release();
  }
}
