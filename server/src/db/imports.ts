import { sql } from 'drizzle-orm';
import type { ImportAnswer, ImportRow, ImportState } from '@ascenso/contracts';
import { guessColumns, type ImportPlan } from '@ascenso/core';
import type { Executor } from './connect.ts';
import { firstRow, rows } from './rows.ts';

const DAY = 86_400_000;
/** Days in which an import can be taken back as a whole. */
export const UNDO_DAYS = 7;
/** Faults that are shown one by one; all of them come as a file. */
const SHOWN = 50;

const COLUMNS = sql`id, name, state, counts, done, total, problem, "by", created_at as "createdAt", ended_at as "endedAt"`;

const withUndo = <T extends Omit<ImportRow, 'undoUntil'>>(row: T, now: number) => {
  const until = row.state === 'done' && row.endedAt !== null ? row.endedAt + UNDO_DAYS * DAY : null;
  return { ...row, undoUntil: until !== null && until > now ? until : null };
};

/** The files that people came in by, the latest first. */
export const listImports = async (db: Executor, ws: string, now: number): Promise<ImportRow[]> =>
  (
    await rows<Omit<ImportRow, 'undoUntil'>>(
      db,
      sql`select ${COLUMNS} from imports where workspace_id = ${ws} and state <> 'cancelled' order by created_at desc, id desc limit 50`,
    )
  ).map((r) => withUndo(r, now));

/** One of them, with what its columns probably are. */
export async function importOf(db: Executor, ws: string, id: string, now: number): Promise<ImportAnswer | undefined> {
  const row = await firstRow<Omit<ImportAnswer, 'undoUntil' | 'guess' | 'faults'>>(
    db,
    sql`select ${COLUMNS}, file, plan from imports where workspace_id = ${ws} and id = ${id}`,
  );
  if (!row) return undefined;
  const known = await rows<{ key: string; label: string }>(
    db,
    sql`select key, label from attributes where workspace_id = ${ws} order by position`,
  );
  const faults = await rows<ImportAnswer['faults'][number]>(
    db,
    sql`select line, fault as why from import_rows where workspace_id = ${ws} and import_id = ${id} and fault is not null order by n limit ${SHOWN}`,
  );
  return { ...withUndo(row, now), guess: row.file ? guessColumns(row.file.rows, known) : null, faults };
}

/** Moves an import on, where it is in one of the states that lead there. Answers whether it was. */
export async function moveImport(
  db: Executor,
  ws: string,
  id: string,
  from: readonly ImportState[],
  to: ImportState,
  plan?: ImportPlan,
): Promise<boolean> {
  const moved = await firstRow(
    db,
    sql`update imports set state = ${to}, done = 0, lease_until = null, problem = null, counts = case when ${to}::text = 'running' then counts || '{"fresh": 0, "changed": 0, "started": 0}' else counts end,
          file = case when ${to}::text = 'cancelled' then null else file end, plan = coalesce(${plan ? JSON.stringify(plan) : null}::jsonb, plan)
        where workspace_id = ${ws} and id = ${id} and state = any (${sql.param(from)}::text[]) returning id`,
  );
  return moved !== undefined;
}
