import { sql } from 'drizzle-orm';
import { businessNow, clockState, MOVER_LOCK, runFrom, standAt } from '../app/clock.ts';
import { UserError } from '../app/errors.ts';
import type { Connection } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { advanceRound } from './advance-loop.ts';
import { decideRound } from './deciding.ts';
import { expireRound, gridAfter } from './expiring.ts';
import { tellRound, UNTOLD } from './telling-offers.ts';
import { noticeRound } from './notices.ts';
import { ensurePartitions } from '../db/partitions.ts';
import { sendRound } from './send-loop.ts';
import { WAITS } from './senders.ts';
import type { SendSettings } from './settings.ts';
import { sizeRound } from './sizing.ts';
import { sweepRound } from './sweeping.ts';

/** The simulated people, as the mover sees them: they act on what is due, and say when they will act next. */
export interface Crowd {
  act: (now: number) => Promise<{ acted: number; nextAt: number | null }>;
}

type Due = 'sweep' | 'visit' | 'send' | 'notice' | 'ending' | 'offer' | 'size' | 'test';

/** First moments at which there is something to do, by what it is; Infinity for none. */
async function nextDue(connection: Connection): Promise<Record<Due, number>> {
  const row = await firstRow<Record<Due, number | null>>(
    connection.db,
    sql`select
          (select min(next_at) from sweeps) as sweep,
          (select min(count_at) from segments) as size,
          (select min(t.next_at) from split_tests t join sequences s on s.workspace_id = t.workspace_id and s.id = t.sequence_id where t.arm is null and s.status = 'live') as test,
          (select min(next_at) from notices where status = 'queued') as notice,
          (select min(closes_at) from offer_grants where used_at is null and expired_at is null and closes_at is not null and issued_at is not null) as ending,
          (select min(issued_at) from offer_grants where ${UNTOLD}) as offer,
          (select min(first.wake_at) from workspaces w cross join lateral (
             select v.wake_at from visits v where v.workspace_id = w.id and v.status = 'active'
               and exists (select 1 from sequences s where s.workspace_id = v.workspace_id and s.id = v.sequence_id and s.status <> 'paused')
             order by v.wake_at limit 1) first) as visit,
          (select min(first.next_at) from workspaces w cross join lateral (
             select s.next_at from sends s where s.workspace_id = w.id and s.status in ('queued', 'leased') and s.next_at < ${WAITS}
               and not exists (select 1 from sequences q where q.workspace_id = s.workspace_id and q.id = s.sequence_id and q.status = 'paused' and s.visit_id is not null)
             order by s.next_at limit 1) first
           where not exists (select 1 from mail_service m where m.next_try_at > ${Date.now()})) as send`,
  );
  return {
    sweep: row?.sweep ?? Infinity,
    size: row?.size ?? Infinity,
    test: row?.test ?? Infinity,
    visit: row?.visit ?? Infinity,
    send: row?.send ?? Infinity,
    notice: row?.notice ?? Infinity,
    offer: row?.offer ?? Infinity,
    ending: row?.ending == null ? Infinity : gridAfter(row.ending),
  };
}

/** A moment that fails so many times in a row ends the move. */
const TRIES = 5;

interface Settled {
  /** The next moment at which something is due. */
  next: number;
  /** True when something was done here or waited for elsewhere. */
  busy: boolean;
}

/** Works until nothing is due at `now`, whoever does it. */
async function settleAt(connection: Connection, settings: SendSettings, now: number): Promise<Settled> {
  for (let busy = false; ; busy = true) {
    const due = await nextDue(connection);
    const next = Math.min(...Object.values(due));
    if (next > now) return { next, busy };
    const expired = due.ending <= now ? await expireRound(connection, now) : 0;
    const offers = due.offer <= now ? await tellRound(connection, now) : 0;
    const swept = due.sweep <= now ? await sweepRound(connection, now) : 0;
    const sized = due.size <= now ? await sizeRound(connection, now) : 0;
    const decided = due.test <= now ? await decideRound(connection, now) : 0;
    const told = due.notice <= now ? await noticeRound(connection, settings, now) : 0;
    const advanced = due.visit <= now ? await advanceRound(connection, now) : 0;
    const sent = due.send <= now || advanced > 0 ? await sendRound(connection, settings, now) : 0;
    // Another process holds what is left: give it a moment on the system clock.
    if (expired + offers + swept + sized + decided + told + advanced + sent === 0)
      await new Promise((resolve) => setTimeout(resolve, 10));
  }
}

/** One moment of a move: engine and people take turns until neither has anything left to do. Answers the next one. */
async function stepAt(
  connection: Connection,
  settings: SendSettings,
  now: number,
  crowd: Crowd | null,
): Promise<number> {
  let settled = await settleAt(connection, settings, now);
  for (;;) {
    const { acted, nextAt } = crowd ? await crowd.act(now) : { acted: 0, nextAt: null };
    if (acted > 0) settled = await settleAt(connection, settings, now);
    // Nothing came of what the people did: they have no new mail to read.
    if (acted === 0 || !settled.busy) return Math.min(settled.next, nextAt ?? Infinity);
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
    // Held by a transaction that does nothing else: so it is held behind a pooler too, however long the move takes.
    await client.query('begin');
    await client.query('set local idle_in_transaction_session_timeout = 0');
    const { rows } = await client.query<{ got: boolean }>('select pg_try_advisory_xact_lock($1) as got', [MOVER_LOCK]);
    if (!rows[0]?.got)
      throw new UserError(409, 'moving', 'The clock is already being moved. Wait until it has arrived.');
    let now = await businessNow(connection.db);
    try {
      for (let failed = 0; now <= target;) {
        await standAt(connection.db, now);
        await ensurePartitions(connection, now);
        onStep(now);
        try {
          const next = await stepAt(connection, settings, now, crowd);
          failed = 0;
          if (next > target) break;
          now = Math.max(next, now);
        } catch (error) {
          // Two processes in each other's way, a connection lost: the database holds all state, and the moment is done again.
          if (++failed >= TRIES) throw error;
          await new Promise((resolve) => setTimeout(resolve, 50));
        }
      }
      now = target;
    } finally {
      // However far it came, a clock that ran runs on.
      await (state.standing ? standAt : runFrom)(connection.db, now);
    }
  } finally {
    await client.query('rollback').catch(() => undefined);
    client.release();
  }
}
