import { sql } from 'drizzle-orm';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

/** What stands and waits in the whole installation. Moments are epoch ms. */
export interface Standing {
  due: number;
  oldestDue: number | null;
  queued: number;
  halted: number;
  aside: { kind: string; n: number }[];
}

/** Counts what is due at `now`, over all workspaces. */
export async function standing(db: Executor, now: number): Promise<Standing> {
  const one = await firstRow<Omit<Standing, 'aside'>>(
    db,
    sql`select (select count(*) from visits where status = 'active' and due_at <= ${now}) as due,
               (select min(due_at) from visits where status = 'active' and due_at <= ${now}) as "oldestDue",
               (select count(*) from sends where status = 'queued' and next_at <= ${now}) as queued,
               (select count(*) from sender_health where halted_at is not null) as halted`,
  );
  const aside = await rows<{ kind: string; n: number }>(
    db,
    sql`select kind, count(*) as n from set_aside group by kind`,
  );
  return { due: 0, oldestDue: null, queued: 0, halted: 0, ...one, aside };
}
