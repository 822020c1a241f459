import { sql } from 'drizzle-orm';
import { newId } from '../app/ids.ts';
import { leaveAgain, setAgain, untagAgain, type Joined, type Set, type Tagged } from './bulk-undo.ts';
import type { Executor } from './connect.ts';
import { emptyBin } from './emptying.ts';
import { firstRow, rows } from './rows.ts';
import { giveTagBack, type GivenTag } from './tags.ts';

/** Table and name of its rows, for each kind of thing that can be brought back after it was deleted. */
const TABLES = {
  shared: ['shared_blocks', 'id'],
  template: ['templates', 'id'],
  segment: ['segments', 'id'],
  file: ['files', 'id'],
  // What people have of it stays with them, and is there again with it.
  attribute: ['attributes', 'key'],
  // Who is on it stays on it.
  list: ['lists', 'id'],
  label: ['labels', 'id'],
  // What was saved of it, and said about it, stays for it.
  sequence: ['sequences', 'id'],
} as const;
export type Binned = keyof typeof TABLES;

/**
 * Deletes a row that nothing uses and keeps it for a week. Answers the id under which it can be brought back, undefined
 * where there is no such row.
 */
export async function intoBin(db: Executor, ws: string, kind: Binned, id: string): Promise<string | undefined> {
  await emptyBin(db);
  const [name, column] = TABLES[kind];
  const table = sql.identifier(name);
  const kept = await firstRow<{ id: string }>(
    db,
    sql`with gone as (delete from ${table} t where t.workspace_id = ${ws} and t.${sql.identifier(column)}::text = ${id} returning to_jsonb(t) as row)
        insert into bin (workspace_id, id, kind, row, binned_at)
        select ${ws}, ${newId()}, ${kind}, row, now() from gone returning id`,
  );
  return kept?.id;
}

/** Keeps for a week what takes something back, which is no deleted row. Answers its id. */
export async function keepInBin(db: Executor, ws: string, kind: 'entered', row: object): Promise<string> {
  await emptyBin(db);
  const id = newId();
  await db.execute(
    sql`insert into bin (workspace_id, id, kind, row, binned_at) values (${ws}, ${id}, ${kind}, ${JSON.stringify(row)}::jsonb, now())`,
  );
  return id;
}

/**
 * Brings something back as it was, under the id it had; people who were added to a sequence are taken out by `entered`. False where
 * it is in the bin no more.
 */
export async function outOfBin<Added>(
  db: Executor,
  ws: string,
  id: string,
  entered: (row: Added) => Promise<void>,
): Promise<boolean> {
  const kept = await firstRow<
    | { kind: Binned; row: object }
    | { kind: 'tag'; row: GivenTag }
    | { kind: 'tagged'; row: Tagged }
    | { kind: 'set'; row: Set }
    | { kind: 'joined'; row: Joined }
    | { kind: 'entered'; row: Added }
  >(db, sql`delete from bin where workspace_id = ${ws} and id = ${id} returning kind, row`);
  if (!kept) return false;
  switch (kept.kind) {
    case 'tag':
      await giveTagBack(db, ws, kept.row);
      break;
    case 'tagged':
      await untagAgain(db, ws, kept.row);
      break;
    case 'set':
      await setAgain(db, ws, kept.row);
      break;
    case 'joined':
      await leaveAgain(db, ws, kept.row);
      break;
    case 'entered':
      await entered(kept.row);
      break;
    case 'attribute':
    case 'file':
    case 'label':
    case 'list':
    case 'segment':
    case 'sequence':
    case 'shared':
    case 'template':
      await putBack(db, kept.kind, kept.row);
  }
  return true;
}

async function putBack(db: Executor, kind: Binned, row: object): Promise<void> {
  const name = TABLES[kind][0];
  const table = sql.identifier(name);
  // What it had when it was deleted: columns that are newer take what they begin with, and those that are reckoned are again.
  const known = await rows<{ name: string }>(
    db,
    sql`select column_name as name from information_schema.columns
        where table_schema = current_schema() and table_name = ${name} and is_generated = 'NEVER'`,
  );
  const columns = sql.join(
    known.filter((c) => c.name in row).map((c) => sql.identifier(c.name)),
    sql`, `,
  );
  await db.execute(
    sql`insert into ${table} (${columns}) select ${columns} from jsonb_populate_record(null::${table}, ${JSON.stringify(row)}::jsonb)`,
  );
}
