import { businessNow, noteEngine } from '../app/clock.ts';
import { failedRounds, roundSeconds } from '../app/metrics.ts';
import type { Connection } from '../db/connect.ts';
import { advanceRound } from './advance-loop.ts';
import { decideRound } from './deciding.ts';
import { expireRound } from './expiring.ts';
import { tellRound } from './telling-offers.ts';
import { tellOfHold } from './mail-service.ts';
import { noticeRound, noticesHandedOver } from './notices.ts';
import { importRound } from '../jobs/importing/index.ts';
import { forgetRound } from '../people/joining.ts';
import { ensurePartitions } from '../db/partitions.ts';
import { delivered, sendRound } from './send-loop.ts';
import type { SendSettings } from './settings.ts';
import { sizeRound } from './sizing.ts';
import { sweepRound } from './sweeping.ts';
import { tallyRound } from './tallying.ts';

const IDLE_MS = 250;
/** Between tries of a round that fails again and again. */
const LONGEST_PAUSE_MS = 4_000;
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
  onError: (error: unknown, loop: string) => void,
): () => Promise<void> {
  let stopped = false;
  const { alertUrl } = settings;
  const pause = (ms = IDLE_MS) => new Promise((resolve) => setTimeout(resolve, ms));
  const run = async (loop: string, round: (now: number) => Promise<number>) => {
    let failures = 0;
    while (!stopped) {
      try {
        const begun = performance.now();
        const handled = await round(await businessNow(connection.db));
        roundSeconds.observe({ loop }, (performance.now() - begun) / 1000);
        failures = 0;
        if (handled === 0) await pause();
      } catch (error) {
        if (stopped) return;
        failedRounds.inc({ loop });
        // A database that is away for an hour is told a dozen times, and not four times a second.
        if (Number.isInteger(Math.log2(++failures))) onError(error, loop);
        await pause(Math.min(LONGEST_PAUSE_MS, IDLE_MS * 2 ** failures));
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
    run('sweep', async (now) => (await ensurePartitions(connection, now)) + (await sweepRound(connection, now))),
    run(
      'expire',
      async (now) =>
        (await expireRound(connection, now)) +
        (await tellRound(connection, now)) +
        (await forgetRound(connection.db, now)),
    ),
    run('advance', async (now) => {
      const moved = await advanceRound(connection, now);
      await beat();
      return moved;
    }),
    run('size', async (now) => (await sizeRound(connection, now)) + (await decideRound(connection, now))),
    run('tally', () => tallyRound(connection)),
    run('import', (now) => importRound(connection, now, () => stopped)),
    run('notice', (now) => noticeRound(connection, settings, now)),
    ...(alertUrl ? [run('alert', async () => ((await tellOfHold(connection.db, alertUrl, Date.now())) ? 1 : 0))] : []),
    ...Array.from({ length: SEND_LANES }, () => run('send', (now) => sendRound(connection, settings, now))),
  ]);
  return async () => {
    stopped = true;
    await all;
    // What a server takes minutes to answer is not waited for: its lease ends, and another process takes over.
    await Promise.race([
      Promise.all([delivered(), noticesHandedOver(connection, LAST_WORDS_MS).catch(() => undefined)]),
      new Promise((resolve) => setTimeout(resolve, LAST_WORDS_MS).unref()),
    ]);
  };
}
