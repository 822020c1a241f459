import type { Executor } from '../../db/connect.ts';
import { datesSet } from '../../people/dates-set.ts';
import type { Job } from './job.ts';

/** What a file may have set or taken back of dates, and of the zones that they are read in. */
export async function datesOfFile(db: Executor, { ws, plan }: Job, now: number): Promise<void> {
  const keys = plan.columns.flatMap((c) => (c.to === 'attribute' ? [c.key] : []));
  if (plan.columns.some((c) => c.to === 'zone')) await datesSet(db, ws, 'zone', now);
  else if (keys.length > 0) await datesSet(db, ws, keys, now);
}
