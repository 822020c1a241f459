import { createHash } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, renameSync, rmSync, statSync } from 'node:fs';
import path from 'node:path';
import { run, root } from './run.mjs';
import { runTool } from './postgres.mjs';

// A backup is a file of pg_dump's custom format: all of the database, hosted files too, with the name of the release that
// made it and the migrations that its schema had.

const drizzle = path.join(root, 'server/drizzle');

/** The migrations that this release knows, in order, by the hash that drizzle notes of each. */
export function knownMigrations() {
  const { entries } = JSON.parse(readFileSync(path.join(drizzle, 'meta/_journal.json'), 'utf8'));
  return entries.map(({ tag }) => ({
    tag,
    hash: createHash('sha256')
      .update(readFileSync(path.join(drizzle, `${tag}.sql`), 'utf8'))
      .digest('hex'),
  }));
}

/** Writes a backup of the database of an address, whole or not at all. Answers its size in bytes. */
export async function backUp(address, file) {
  const unfinished = `${file}.unfinished`;
  try {
    await runTool('pg_dump', address, ['-Fc', '--no-owner', '--no-privileges', '-f', unfinished]);
    chmodSync(unfinished, 0o600);
    renameSync(unfinished, file);
  } finally {
    rmSync(unfinished, { force: true });
  }
  return statSync(file).size;
}

/** Rows of one table of a backup, as pg_restore writes them: columns parted by tabs. */
async function rowsOf(bin, file, table) {
  const text = await run(`${bin}/pg_restore`, ['--data-only', '-t', table, '-f', '-', file]);
  const lines = text.split('\n');
  const head = lines.findIndex((line) => line.startsWith('COPY '));
  if (head < 0) return [];
  const columns = /\((.*)\)/.exec(lines[head])?.[1].split(', ') ?? [];
  return lines
    .slice(head + 1, lines.indexOf('\\.', head))
    .map((line) => Object.fromEntries(line.split('\t').map((value, i) => [columns[i], value])));
}

/**
 * What a backup says of itself: the release that made it, and its migrations. Throws a sentence for a file that is none,
 * and for one of a release that is newer than this.
 */
export async function readBackup(bin, file) {
  if (!existsSync(file)) throw new Error(`There is no file ${file}.`);
  await run(`${bin}/pg_restore`, ['-l', file]).catch(() => {
    throw new Error(`${file} is no backup of Ascenso, or is not whole: pg_restore cannot read it.`);
  });
  const made = (await rowsOf(bin, file, '__drizzle_migrations')).map((r) => r.hash);
  const [installation] = await rowsOf(bin, file, 'installation');
  if (made.length === 0 || !installation)
    throw new Error(`${file} is a dump of PostgreSQL, but not of Ascenso: it holds no installation.`);
  const release = installation.release && installation.release !== '\\N' ? installation.release : 'one before 0.1.0';
  const known = knownMigrations();
  const strange = made.filter((hash) => !known.some((k) => k.hash === hash));
  if (strange.length > 0)
    throw new Error(
      `${file} was made by another release (${release}): ${strange.length} of its ${made.length} migrations are not known here. Restore it with that release, or a later one.`,
    );
  return { release, migrations: made.length, known: known.length };
}

/** Fills an empty database from a backup, in one transaction: all of it, or nothing. */
export async function fillFrom(address, file) {
  await runTool('pg_restore', address, [
    '--no-owner',
    '--no-privileges',
    '--single-transaction',
    '--exit-on-error',
    file,
  ]);
}
