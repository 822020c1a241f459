import { sql } from 'drizzle-orm';
import type { Executor } from './connect.ts';

/** How long something can be brought back, days of the system clock. */
const DAYS = 7;

/** Empties the bin of what cannot be brought back any more. Whoever puts something in does so first. */
export const emptyBin = (db: Executor) =>
  db.execute(sql`delete from bin where binned_at < now() - make_interval(days => ${DAYS})`);
