import { sql } from 'drizzle-orm';
import type { Connection, Db } from '../db/connect.ts';
import { firstRow } from '../db/rows.ts';
import { transact } from '../db/transact.ts';
import { recountOrders } from '../people/ordering.ts';

/** Increments folded at once. */
const FOLDED = 20_000;
/** Between two folds, ms on the system clock: readers add up what is not folded yet, so nothing waits for it. */
const REST_MS = 2_000;
/** The advisory lock of whoever folds: two at once would wait for each other's rows. */
const LOCK = 7_461_005;

const KEY = sql`workspace_id, sequence_id, version, step, what, detail`;

/** Folds increments up into counters, all in one statement. Answers how many there were. */
export async function foldTallies(db: Db): Promise<number> {
  return db.transaction(async (tx) => {
    const lock = await firstRow<{ mine: boolean }>(tx, sql`select pg_try_advisory_xact_lock(${LOCK}) as mine`);
    if (!lock?.mine) return 0;
    const folded = await firstRow<{ n: number }>(
      tx,
      sql`with taken as (delete from tally_moves where id = any (array(select id from tally_moves order by id limit ${FOLDED})) returning *),
            by_day as (
              insert into tallies (${KEY}, day, n) select ${KEY}, day, sum(n) from taken where day is not null group by ${KEY}, day
              on conflict (workspace_id, sequence_id, what, step, detail, version, day) do update set n = tallies.n + excluded.n),
            over_all as (
              insert into tally_totals (${KEY}, n) select ${KEY}, sum(n) from taken group by ${KEY}
              on conflict (workspace_id, sequence_id, what, step, detail, version) do update set n = tally_totals.n + excluded.n)
          select count(*) as n from taken`,
    );
    return folded?.n ?? 0;
  });
}

/** Counts the orders of one workspace anew whose rules have changed. Answers 1 where there was one. */
const recountDue = (db: Db): Promise<number> =>
  transact(db, async (tx) => {
    const due = await firstRow<{ id: string }>(
      tx,
      sql`select id from workspaces where money_due order by id limit 1 for no key update skip locked`,
    );
    if (!due) return 0;
    await recountOrders(tx, due.id);
    await tx.execute(sql`update workspaces set money_due = false where id = ${due.id}`);
    return 1;
  });

const rested = new WeakMap<Db, number>();

/** Keeps the counters: folds increments up now and then. Any number of processes may. Answers whether more is to do. */
export async function tallyRound({ db }: Connection): Promise<number> {
  if ((rested.get(db) ?? 0) > Date.now()) return 0;
  const recounted = await recountDue(db);
  const folded = await foldTallies(db);
  if (folded < FOLDED && recounted === 0) rested.set(db, Date.now() + REST_MS);
  return recounted + (folded === FOLDED ? 1 : 0);
}
