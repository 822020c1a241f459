import { setTimeout } from 'node:timers/promises';
import { sql } from 'drizzle-orm';
import { connect, type Connection, type ConnectOptions } from './connect.ts';
import { firstRow } from './rows.ts';

// Reads that may be a little old (results, forecast, counts) can go to a streaming replica, PostgreSQL's own. Everything that
// decides, changes, or agrees to something goes to the primary.

/** Where such a read goes, and how far it is behind the primary, ms. */
export interface ReadFrom {
  connection: Connection;
  behind: number;
}

export interface Reading {
  /** Where to read now. */
  from: () => Promise<ReadFrom>;
  close: () => Promise<void>;
}

/** What is further behind than this is no longer a little old: the primary answers, ms. */
const TOO_FAR_MS = 60_000;
/** How long it is believed how far behind the replica is, and how long one that failed is left alone, ms. */
const BELIEVED_MS = 1_000;
const LEFT_ALONE_MS = 5_000;
/** How long the replica may take to say so: one that does not answer at all must keep nobody waiting, ms. */
const ASKED_MS = 2_000;

/** All from the primary. */
export const readPrimary = (connection: Connection): Reading => ({
  from: () => Promise.resolve({ connection, behind: 0 }),
  close: () => Promise.resolve(),
});

/**
 * How far `replica` is behind what `primary` holds now, ms. By places in the log, and only then by the time of the last commit
 * that was taken over: on a quiet primary that time is old although nothing is missing.
 */
async function behindOf(primary: Connection, replica: Connection): Promise<number> {
  const wrote = await firstRow<{ lsn: string }>(primary.db, sql`select pg_current_wal_lsn()::text as lsn`);
  const there = await firstRow<{ has: boolean; ms: number | null }>(
    replica.db,
    sql`select not pg_is_in_recovery() or pg_last_wal_replay_lsn() >= ${wrote?.lsn}::pg_lsn as has,
          (extract(epoch from clock_timestamp() - pg_last_xact_replay_timestamp()) * 1000)::float8 as ms`,
  );
  return there?.has ? 0 : (there?.ms ?? Infinity);
}

/** From a replica at `url` while it answers and is not too far behind, otherwise from the primary. */
export function readReplica(url: string, primary: Connection, options: ConnectOptions = {}): Reading {
  const replica = connect(url, options);
  let known: { from: Promise<ReadFrom>; until: number } = { from: readPrimary(primary).from(), until: 0 };
  const look = async (): Promise<ReadFrom> => {
    const behind = await Promise.race([
      behindOf(primary, replica).catch(() => Infinity),
      setTimeout(ASKED_MS, Infinity, { ref: false }),
    ]);
    if (behind <= TOO_FAR_MS) return { connection: replica, behind };
    known.until = Date.now() + LEFT_ALONE_MS;
    return { connection: primary, behind: 0 };
  };
  return {
    from: () => {
      if (Date.now() >= known.until) {
        known = { from: known.from, until: Date.now() + BELIEVED_MS };
        known.from = look();
      }
      return known.from;
    },
    close: () => replica.close(),
  };
}
