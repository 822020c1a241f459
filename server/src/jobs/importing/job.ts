import { sql } from 'drizzle-orm';
import type { ImportCounts, ImportFile, ImportState } from '@ascenso/contracts';
import type { ImportPlan } from '@ascenso/core';
import type { Executor } from '../../db/connect.ts';
import { firstRow } from '../../db/rows.ts';

/** An import that some process works on. */
export interface Job {
  ws: string;
  id: string;
  name: string;
  state: ImportState;
  file: ImportFile;
  plan: ImportPlan;
  counts: ImportCounts | null;
  done: number;
  total: number;
  by: string;
}

/** For how long a process has an import to itself, ms of the system clock: it says in time that it goes on. */
const LEASE_MS = 30_000;

/** The work was ended from elsewhere: cancelled, or taken over. */
export class Stopped extends Error {}

/** Takes an import that waits for work, or whose process is gone. */
export const claimJob = (db: Executor): Promise<Job | undefined> =>
  firstRow<Job>(
    db,
    sql`update imports i set lease_until = ${Date.now() + LEASE_MS}
        where (i.workspace_id, i.id) in (
          select workspace_id, id from imports where state in ('checking', 'running', 'undoing') and coalesce(lease_until, 0) < ${Date.now()}
          order by created_at limit 1 for update skip locked)
        returning i.workspace_id as ws, i.id, i.name, i.state, i.file, i.plan, i.counts, i.done, i.total, i."by"`,
  );

/** Says how far the work has come, and that it goes on. Throws Stopped where somebody has ended it. */
export async function noteProgress(db: Executor, job: Job, done: number, total = job.total): Promise<void> {
  const going = await firstRow(
    db,
    sql`update imports set done = ${done}, total = ${total}, lease_until = ${Date.now() + LEASE_MS}
        where workspace_id = ${job.ws} and id = ${job.id} and state = ${job.state} returning id`,
  );
  if (!going) throw new Stopped();
}

/** Lets go of an import before its work is done, so that another process takes it up at once. */
export const letGo = (db: Executor, job: Job) =>
  db.execute(sql`update imports set lease_until = null where workspace_id = ${job.ws} and id = ${job.id}`);

/** Ends a piece of work. Of a file that is in, or out again, the first rows are kept no longer: they are people's. */
export async function finish(
  db: Executor,
  job: Job,
  state: ImportState,
  more: { counts?: ImportCounts; problem?: string; endedAt?: number } = {},
): Promise<void> {
  await db.execute(sql`
    update imports set state = ${state}, lease_until = null, problem = coalesce(${more.problem ?? null}, problem),
      file = case when ${state}::text in ('done', 'undone') then null else file end, done = case when ${state}::text = 'undoing' then 0 else done end,
      counts = coalesce(${more.counts ? JSON.stringify(more.counts) : null}::jsonb, counts), ended_at = coalesce(${more.endedAt ?? null}::bigint, ended_at)
    where workspace_id = ${job.ws} and id = ${job.id} and state = ${job.state}`);
}
