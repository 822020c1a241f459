import { sql } from 'drizzle-orm';
import type { Connection } from '../../db/connect.ts';
import { isOfTheRow } from '../../engine/setting-aside.ts';
import { check } from './checking.ts';
import { UNDO_DAYS } from '../../db/imports.ts';
import { claimJob, finish, letGo, Stopped } from './job.ts';
import { Unreadable } from './reading.ts';
import { run } from './running.ts';
import { undo } from './undoing.ts';

export { receiveFile } from './receiving.ts';
export { faultsOf } from './checking.ts';

const DAY = 86_400_000;
/** A file that nobody does anything with is forgotten after so many days. */
const FORGOTTEN_DAYS = 2;

/** What cannot be undone any more needs no rows, and what was given up no file. The notes on it stay. */
async function tidy(connection: Connection, now: number): Promise<void> {
  await connection.db.execute(
    sql`update imports set state = 'cancelled', file = null where state in ('uploading', 'uploaded', 'checked') and created_at < ${now - FORGOTTEN_DAYS * DAY}`,
  );
  for (const table of [sql`import_rows`, sql`import_pieces`])
    await connection.db.execute(sql`
      delete from ${table} r using imports i where i.workspace_id = r.workspace_id and i.id = r.import_id and (
        i.state in ('cancelled', 'undone', 'failed') or i.state = 'done' and i.ended_at < ${now - UNDO_DAYS * DAY})`);
}

let tidied = 0;

/**
 * Works on one import that is under way, to the end of that work. `stopping` tells that the process is to end: then it is
 * let go of, and the next one goes on. Answers how many it has worked on.
 */
export async function importRound(connection: Connection, now: number, stopping: () => boolean): Promise<number> {
  const { db } = connection;
  const job = await claimJob(db);
  if (!job) {
    if (Date.now() - tidied > 60_000) {
      tidied = Date.now();
      await tidy(connection, now);
    }
    return 0;
  }
  try {
    if (job.state === 'checking') await check(connection, job);
    else if (job.state === 'running') await run(connection, job, stopping);
    else await undo(connection, job, stopping);
    if (stopping()) await letGo(db, job);
  } catch (error) {
    if (error instanceof Stopped) return 1;
    if (error instanceof Unreadable) await finish(db, job, 'failed', { problem: error.message });
    else if (job.state === 'checking' && isOfTheRow(error))
      await finish(db, job, 'failed', {
        problem: 'The file could not be read to its end. Save it as CSV anew, then try again.',
      });
    // Half a file is nothing: who is in already goes again.
    else if (job.state === 'running' && isOfTheRow(error))
      await finish(db, job, 'undoing', {
        problem: 'It could not be taken in to its end, so all of it was taken back.',
      });
    else {
      await letGo(db, job);
      throw error;
    }
  }
  return 1;
}
