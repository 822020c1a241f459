import { sql } from 'drizzle-orm';
import type { Connection, Tx } from './connect.ts';
import { firstRow, rows } from './rows.ts';
import { transact } from './transact.ts';

// Events lie in a partition for each month, made ahead for as long as the clock runs. What fell into the rest (a month
// that had no partition yet, told late or told of years ago) is moved into one of its own.

/** Months made ahead. */
const AHEAD = 6;
/** What lies further away than this stays in the rest: a partition for every month of a century helps nobody. */
const FURTHEST_MONTHS = 120;
/** The advisory lock of whoever makes partitions. */
const LOCK = 7_461_003;

/** First moment of the month that lies `months` from the one of `at` (epoch ms, UTC). */
function monthFrom(at: number, months: number): number {
  const d = new Date(at);
  return Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + months, 1);
}

const nameOf = (from: number) => `events_${new Date(from).toISOString().slice(0, 7).replace('-', '_')}`;

async function makeMonth(tx: Tx, from: number): Promise<void> {
  const name = sql.identifier(nameOf(from));
  const to = monthFrom(from, 1);
  const known = await firstRow<{ there: boolean }>(tx, sql`select to_regclass(${nameOf(from)}) is not null as there`);
  if (known?.there) return;
  const bounds = sql.raw(`for values from (${from}) to (${to})`);
  const inRest = await rows(
    tx,
    sql`select 1 from events_rest where occurred_at >= ${from} and occurred_at < ${to} limit 1`,
  );
  if (inRest.length === 0) {
    await tx.execute(sql`create table ${name} partition of events ${bounds}`);
    return;
  }
  // The rest may not hold what a partition is made for: the rows move first.
  await tx.execute(sql`create table ${name} (like events including defaults including constraints)`);
  await tx.execute(sql`
    with moved as (delete from events_rest where occurred_at >= ${from} and occurred_at < ${to} returning *)
    insert into ${name} select * from moved`);
  await tx.execute(sql`alter table events attach partition ${name} ${bounds}`);
}

/** Months whose events lie in the rest, as first moments (epoch ms). */
async function monthsInRest(tx: Tx, now: number): Promise<number[]> {
  const found = await rows<{ month: string }>(
    tx,
    sql`select distinct to_char(to_timestamp(occurred_at / 1000) at time zone 'UTC', 'YYYY-MM') as month from events_rest
        where occurred_at between ${monthFrom(now, -FURTHEST_MONTHS)} and ${monthFrom(now, FURTHEST_MONTHS)}`,
  );
  return found.map((f) => Date.parse(`${f.month}-01T00:00:00Z`));
}

/** Month up to which each database has been seen to, so that asking again costs nothing. */
const seen = new WeakMap<Connection, number>();

/** Sees to the partitions around `now` (epoch ms). Any number of processes may. Answers 0: nothing waits for it. */
export async function ensurePartitions(connection: Connection, now: number): Promise<number> {
  const month = monthFrom(now, 0);
  if (seen.get(connection) === month) return 0;
  await transact(connection.db, async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK})`);
    const ahead = Array.from({ length: AHEAD + 2 }, (_, i) => monthFrom(now, i - 1));
    for (const from of new Set([...ahead, ...(await monthsInRest(tx, now))])) await makeMonth(tx, from);
  });
  seen.set(connection, month);
  return 0;
}
