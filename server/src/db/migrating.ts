import { migrate } from 'drizzle-orm/node-postgres/migrator';
import type { Connection } from './connect.ts';
import { ensurePartitions } from './partitions.ts';

/** Brings the schema up to date and makes the monthly partitions of events around `now` (epoch ms). */
export async function migrateSchema(connection: Connection, folder: string, now: number): Promise<void> {
  await migrate(connection.db, { migrationsFolder: folder });
  await ensurePartitions(connection, now);
}
