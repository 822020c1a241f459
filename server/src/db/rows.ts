import { sql, type SQL } from 'drizzle-orm';
import type { Executor } from './connect.ts';

/** Runs SQL text and answers its rows, typed by the caller who wrote the columns. */
export async function rows<T>(db: Executor, query: SQL): Promise<T[]> {
  return (await db.execute(query)).rows as T[];
}

export async function firstRow<T>(db: Executor, query: SQL): Promise<T | undefined> {
  return (await rows<T>(db, query))[0];
}

/** A batch of rows as one jsonb parameter, for jsonb_to_recordset. */
export const batch = (list: readonly unknown[]): SQL => sql`${JSON.stringify(list)}::jsonb`;
