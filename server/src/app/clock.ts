import { randomBytes } from 'node:crypto';
import { sql } from 'drizzle-orm';
import { firstRow } from '../db/rows.ts';
import type { Executor } from '../db/connect.ts';

interface ClockRow {
  practice: boolean;
  offset_ms: number;
  standing_at: number | null;
}

const read = (db: Executor) =>
  firstRow<ClockRow>(db, sql`select practice, offset_ms, standing_at from installation where id = 1`);

/** The business clock: its present, epoch ms, and whether it is one to practise with. */
export interface BusinessClock {
  now: number;
  practice: boolean;
}

export async function businessClock(db: Executor): Promise<BusinessClock> {
  const row = await read(db);
  if (!row?.practice) return { now: Date.now(), practice: false };
  return { now: row.standing_at ?? Date.now() + row.offset_ms, practice: true };
}

/** Present of the business clock, epoch ms: visits, deadlines and Date headers go by it. Leases and sessions never do. */
export const businessNow = async (db: Executor): Promise<number> => (await businessClock(db)).now;

/** The advisory lock that whoever moves the practice clock holds, in whatever process. */
export const MOVER_LOCK = 7_461_002;

/** The clock, and whether it is being moved just now. */
export async function clockState(
  db: Executor,
): Promise<{ practice: boolean; now: number; standing: boolean; moving: boolean }> {
  const row = await read(db);
  const lock = await firstRow(
    db,
    sql`select 1 from pg_locks where locktype = 'advisory' and objid = ${MOVER_LOCK}
          and database = (select oid from pg_database where datname = current_database())`,
  );
  return {
    practice: row?.practice ?? false,
    now: await businessNow(db),
    standing: row?.standing_at != null,
    moving: lock !== undefined,
  };
}

/** An engine that has finished no round for so long is away, ms on the system clock. */
const AWAY = 20_000;

/** An engine has finished a round. */
export async function noteEngine(db: Executor): Promise<void> {
  await db.execute(sql`update installation set engine_seen_at = ${Date.now()} where id = 1`);
}

/** For how long no engine has been at work, ms on the system clock; null while one is, or where none has ever been. */
export async function engineAway(db: Executor): Promise<number | null> {
  const row = await firstRow<{ seen: number | null }>(
    db,
    sql`select engine_seen_at as seen from installation where id = 1`,
  );
  const away = row?.seen == null ? 0 : Date.now() - row.seen;
  return away > AWAY ? away : null;
}

/** Stands the practice clock still at a moment. */
export async function standAt(db: Executor, now: number): Promise<void> {
  await db.execute(
    sql`update installation set standing_at = ${now}, offset_ms = ${now - Date.now()} where id = 1 and practice`,
  );
}

/** Lets the practice clock run on from a moment. */
export async function runFrom(db: Executor, now: number): Promise<void> {
  await db.execute(
    sql`update installation set standing_at = null, offset_ms = ${now - Date.now()} where id = 1 and practice`,
  );
}

/** Makes the installation's row once. With `practiceFrom`, the clock is a practice clock standing at that moment. */
export async function ensureInstallation(db: Executor, practiceFrom: number | null): Promise<void> {
  await db.execute(sql`
    insert into installation (id, practice, offset_ms, standing_at, secret)
    values (1, ${practiceFrom !== null}, 0, ${practiceFrom}, ${randomBytes(32).toString('hex')})
    on conflict do nothing`);
}

/** Notes which release is at work, for backups. */
export async function noteRelease(db: Executor, release: string): Promise<void> {
  await db.execute(sql`update installation set release = ${release} where id = 1`);
}

export async function installationSecret(db: Executor): Promise<string> {
  const row = await firstRow<{ secret: string }>(db, sql`select secret from installation where id = 1`);
  if (!row) throw new Error('The installation has not been set up: run the migration first.');
  return row.secret;
}
