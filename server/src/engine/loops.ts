import { businessNow, noteEngine } from '../app/clock.ts';
import type { Connection } from '../db/connect.ts';
import { advanceRound } from './advance-loop.ts';
import { expireRound } from './expiring.ts';
import { noticeRound } from './notices.ts';
import { ensurePartitions } from '../db/partitions.ts';
import { delivered, sendRound } from './send-loop.ts';
import type { SendSettings } from './settings.ts';
import { sweepRound } from './sweeping.ts';

const IDLE_MS = 250;
/** How often an engine says that it is there. */
const BEAT_MS = 5_000;
/** How long a stopping process waits for deliveries that are under way. */
const LAST_WORDS_MS = 3_000;
/** Send rounds at once: while one speaks SMTP, the other leases and fills. */
export const SEND_LANES = 2;

/** Runs the loops until told to stop. A failed round is told and tried again: the database holds all state. */
export function startLoops(
  connection: Connection,
  settings: SendSettings,
  onError: (error: unknown) => void,
): () => Promise<void> {
  let stopped = false;
  const pause = () => new Promise((resolve) => setTimeout(resolve, IDLE_MS));
  const run = async (round: (now: number) => Promise<number>) => {
    while (!stopped) {
      try {
        if ((await round(await businessNow(connection.db))) === 0) await pause();
      } catch (error) {
        if (stopped) return;
        onError(error);
        await pause();
      }
    }
  };
  let beaten = 0;
  // By the loop that decides: a process that lives and decides nothing is away, too.
  const beat = async () => {
    if (Date.now() - beaten < BEAT_MS) return;
    beaten = Date.now();
    await noteEngine(connection.db);
  };
  const all = Promise.all([
    run(async (now) => (await ensurePartitions(connection, now)) + (await sweepRound(connection, now))),
    run((now) => expireRound(connection, now)),
    run(async (now) => {
      const moved = await advanceRound(connection, now);
      await beat();
      return moved;
    }),
    run((now) => noticeRound(connection, settings, now)),
    ...Array.from({ length: SEND_LANES }, () => run((now) => sendRound(connection, settings, now))),
  ]);
  return async () => {
    stopped = true;
    await all;
    // What a server takes minutes to answer is not waited for: its lease ends, and another process takes over.
    await Promise.race([delivered(), new Promise((resolve) => setTimeout(resolve, LAST_WORDS_MS).unref())]);
  };
}
