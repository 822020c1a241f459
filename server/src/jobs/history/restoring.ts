import { sql } from 'drizzle-orm';
import { ensureInstallation, installationSecret, noteRelease } from '../../app/clock.ts';
import { randomBytes } from '../../app/chance.ts';
import { sha256 } from '../../app/hash.ts';
import { hashPassword } from '../../app/sessions.ts';
import { drizzle } from 'drizzle-orm/node-postgres';
import type { ClientBase } from 'pg';
import type { Connection, Executor } from '../../db/connect.ts';
import * as schema from '../../db/schema/index.ts';
import { migrateSchema } from '../../db/migrating.ts';
import { packValues } from '../../db/packed.ts';
import { ensurePartitions } from '../../db/partitions.ts';
import { firstRow, rows } from '../../db/rows.ts';
import { copyLines, NOTHING } from '../importing/staging.ts';
import { cellsOf, fromHex, keptTables, toHex, unescaped } from './columns.ts';
import type { History, HistoryTable } from './file.ts';
import { withSigns, type Signs } from './signs.ts';

/** Lines of one COPY, so that none of them is one string of many megabytes. */
const AT_ONCE = 5_000;
const DAY = 86_400_000;
const MONTH = 31 * DAY;

/** Emails are filled as they are kept: packed, with addresses of this installation. */
function packedValues({ columns, lines }: HistoryTable, programs: HistoryTable | undefined): string[] {
  const [hash = -1, dictionary = -1] = ['hash', 'dictionary'].map((c) => programs?.columns.indexOf(c) ?? -1);
  const dictionaries = new Map<string, Buffer | null>();
  for (const line of programs?.lines ?? []) {
    const cells = cellsOf(line);
    const cell = cells[dictionary] ?? NOTHING;
    dictionaries.set(cells[hash] ?? '', cell === NOTHING ? null : fromHex(cell));
  }
  const [at, program] = [columns.indexOf('values'), columns.indexOf('program_hash')];
  return lines.map((line) => {
    const cells = cellsOf(line);
    if (cells[at] === NOTHING) return line;
    const values = JSON.parse(unescaped(cells[at] ?? '')) as Parameters<typeof packValues>[0];
    cells[at] = toHex(packValues(values, dictionaries.get(cells[program] ?? '') ?? null));
    return cells.join('\t');
  });
}

/** Tables with triggers that count what comes in: it has been counted already. */
const counting = (db: Executor) =>
  rows<{ table: string }>(
    db,
    sql`select distinct c.relname as "table" from pg_trigger t join pg_class c on c.oid = t.tgrelid
        where not t.tgisinternal and c.relnamespace = current_schema()::regnamespace and not c.relispartition`,
  );

async function fill(client: ClientBase, known: ReadonlySet<string>, { tables }: History, signs: Signs): Promise<void> {
  const programs = tables.find((t) => t.table === 'programs');
  for (const one of tables) {
    if (!known.has(one.table))
      throw new Error(`The history has a table “${one.table}” that this release does not know.`);
    const signed = one.lines.map((line) => withSigns(line, signs));
    const lines = one.table === 'sends' ? packedValues({ ...one, lines: signed }, programs) : signed;
    const into = `"${one.table}" (${one.columns.map((c) => `"${c}"`).join(', ')})`;
    for (let from = 0; from < lines.length; from += AT_ONCE)
      await copyLines(client, into, lines.slice(from, from + AT_ONCE));
  }
}

/** People who work there can sign in, and the stand-ins' key opens. */
async function openDoors(db: Executor, key: string, users: Installing['users']): Promise<void> {
  for (const { email, password } of users)
    await db.execute(sql`update users set password_hash = ${await hashPassword(password)} where email = ${email}`);
  await db.execute(sql`update api_keys set hash = ${sha256(key)}, hint = ${key.slice(-4)}`);
}

/** What the installation is that a history is brought back into. */
export interface Installing {
  addresses: Omit<Signs['words'], 'key'>;
  migrations: string;
  release: string;
  users: readonly { email: string; password: string }[];
}

/** Whether anybody has worked in a database already. */
async function isInUse(db: Executor): Promise<boolean> {
  const made = await firstRow<{ made: boolean }>(db, sql`select to_regclass('workspaces') is not null as made`);
  return made?.made === true && (await firstRow(db, sql`select 1 from workspaces limit 1`)) !== undefined;
}

/**
 * Brings a history back into an empty database: the tables as its release had them, its rows, and what later releases made
 * of the tables. Signatures, keys and passwords are this installation's own. `around` sets up what stands around it, before
 * anything is there for good: whatever breaks this off leaves an empty database. Answers false, and does nothing, where the
 * database is in use.
 */
export async function restoreHistory(
  connection: Connection,
  history: History,
  { addresses, migrations, release, users }: Installing,
  around: (db: Executor, signs: Signs) => Promise<void>,
): Promise<boolean> {
  if (await isInUse(connection.db)) return false;
  const { now, days } = history.head;
  await migrateSchema(connection, migrations, now, history.head.migrations);
  for (let at = now - days * DAY - MONTH; at < now; at += MONTH) await ensurePartitions(connection, at);
  await ensurePartitions(connection, now);
  const client = await connection.pool.connect();
  try {
    const db = drizzle(client, { schema });
    await client.query('begin');
    await ensureInstallation(db, now);
    const key = `asc_${randomBytes(24).toString('base64url')}`;
    const signs = { secret: await installationSecret(db), words: { ...addresses, key } };
    const tables = (await counting(db)).map((t) => sql.identifier(t.table));
    for (const table of tables) await db.execute(sql`alter table ${table} disable trigger user`);
    await fill(client, new Set((await keptTables(db)).map((t) => t.table)), history, signs);
    for (const table of tables) await db.execute(sql`alter table ${table} enable trigger user`);
    await openDoors(db, key, users);
    await around(db, signs);
    await client.query('commit');
    client.release();
  } catch (error) {
    client.release(true);
    throw error;
  }
  await migrateSchema(connection, migrations, now);
  await noteRelease(connection.db, release);
  await connection.db.execute(sql`analyze`);
  return true;
}
