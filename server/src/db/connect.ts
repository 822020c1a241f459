import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres';
import { migrate } from 'drizzle-orm/node-postgres/migrator';
import pg from 'pg';
import * as schema from './schema.ts';

// int8 columns hold epoch ms and counts: well inside the exact integers of a double.
pg.types.setTypeParser(pg.types.builtins.INT8, Number);

export type Db = NodePgDatabase<typeof schema>;
export type Tx = Parameters<Parameters<Db['transaction']>[0]>[0];
/** Either: what a query can run on. */
export type Executor = Db | Tx;

export interface Connection {
  db: Db;
  pool: pg.Pool;
  close: () => Promise<void>;
}

/** Opens a pool on a PostgreSQL address. */
export function connect(url: string, max = 10): Connection {
  const pool = new pg.Pool({
    connectionString: url,
    max,
    options: '-c jit=off -c idle_in_transaction_session_timeout=60000',
  });
  // A connection lost while idle (server restart) is replaced at the next query; without this it ends the process.
  pool.on('error', () => undefined);
  return { db: drizzle(pool, { schema }), pool, close: () => pool.end() };
}

/** Brings the schema up to date and makes the monthly partitions of events around `now` (epoch ms). */
export async function migrateSchema(connection: Connection, folder: string, now: number): Promise<void> {
  await migrate(connection.db, { migrationsFolder: folder });
  await ensurePartitions(connection.db, now);
}

/** Partitions of `events` from a month before `now` to six months after it; the rest goes to events_rest. */
export async function ensurePartitions(db: Executor, now: number): Promise<void> {
  const d = new Date(now);
  for (let i = -1; i <= 6; i++) {
    const from = Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + i, 1);
    const to = Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + i + 1, 1);
    const name = `events_${new Date(from).toISOString().slice(0, 7).replace('-', '_')}`;
    await db.execute(`create table if not exists ${name} partition of events for values from (${from}) to (${to})`);
  }
}
