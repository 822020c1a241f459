import { sql } from 'drizzle-orm';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import type { Connection, Executor } from './connect.ts';
import { ensurePartitions } from './partitions.ts';
import { firstRow } from './rows.ts';

/** The oldest PostgreSQL that this is tried with. */
const OLDEST = 15;
/** The advisory lock of whoever brings the schema up to date. */
const LOCK = 7_461_004;

/**
 * Where it is noted which migrations there have been: in drizzle's own schema, as before; for a role that may make none in
 * this database, beside the tables.
 */
async function notesIn(db: Executor): Promise<string> {
  const row = await firstRow<{ known: boolean; may: boolean; own: string }>(
    db,
    sql`select to_regclass('drizzle.__drizzle_migrations') is not null as known,
               has_database_privilege(current_database(), 'create') as may, current_schema() as own`,
  );
  return row?.known || row?.may ? 'drizzle' : (row?.own ?? 'public');
}

async function checkVersion(db: Executor): Promise<void> {
  const row = await firstRow<{ n: number; words: string }>(
    db,
    sql`select current_setting('server_version_num')::int as n, current_setting('server_version') as words`,
  );
  if ((row?.n ?? 0) < OLDEST * 10_000)
    throw new Error(`PostgreSQL ${row?.words} is too old: Ascenso needs ${OLDEST} or later.`);
}

/**
 * Brings the schema up to date, all of it or nothing, and makes the monthly partitions of events around `now` (epoch ms).
 * `upTo` is how many migrations there shall have been: all, unless rows of an earlier release are to be brought back first.
 * Drizzle's own migrator makes its schema anew each time, which a role that owns only its schema may not do.
 */
export async function migrateSchema(
  connection: Connection,
  folder: string,
  now: number,
  upTo = Infinity,
): Promise<void> {
  const { db } = connection;
  await checkVersion(db);
  const migrations = readMigrationFiles({ migrationsFolder: folder });
  await db.transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK})`);
    const schema = await notesIn(tx);
    const notes = sql`${sql.identifier(schema)}.__drizzle_migrations`;
    if (schema === 'drizzle') await tx.execute(sql`create schema if not exists drizzle`);
    await tx.execute(
      sql`create table if not exists ${notes} (id serial primary key, hash text not null, created_at bigint)`,
    );
    const last = await firstRow<{ at: number | null }>(tx, sql`select max(created_at) as at from ${notes}`);
    for (const { folderMillis, hash, sql: statements } of migrations.slice(0, upTo)) {
      if (folderMillis <= (last?.at ?? -1)) continue;
      for (const statement of statements) await tx.execute(sql.raw(statement));
      await tx.execute(sql`insert into ${notes} (hash, created_at) values (${hash}, ${folderMillis})`);
    }
  });
  await ensurePartitions(connection, now);
}
