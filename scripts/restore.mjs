import { existsSync } from 'node:fs';
import path from 'node:path';
import { say } from './lib/run.mjs';
import { ensurePackages, stateDir } from './lib/setup.mjs';

// npm run restore -- FILE: fills this installation from a backup. What was there before is kept beside it, when asked for.
const replace = process.argv.includes('--replace');
const given = process.argv.slice(2).find((word) => !word.startsWith('--'));
if (!given) {
  say('Say which file: npm run restore -- ascenso-2026-03-06-09-12.backup');
  process.exit(2);
}
await ensurePackages();
const { takeOver, writeState } = await import('./lib/begun.mjs');
const { fillFrom, readBackup } = await import('./lib/backup.mjs');
const { binaries, ensureDatabase, runTool, startPostgres } = await import('./lib/postgres.mjs');
const home = process.env.ASCENSO_HOME ?? 'home';
const folder = path.join(stateDir, home);
const file = path.resolve(given);
const count = async (address, sql) => Number(await runTool('psql', address, ['-qAt', '-c', sql]));
const stops = [];
try {
  const own = !process.env.DATABASE_URL;
  let address = process.env.DATABASE_URL;
  let swap = async () => {};
  if (own) {
    const begun = await takeOver(folder, say);
    stops.push(begun.leave);
    const cluster = await startPostgres(`${home}-db`);
    stops.push(cluster.stop);
    const psql = (sql) => cluster.tool('psql', 'postgres', ['-q', '-c', sql]);
    await readBackup(cluster.bin, file);
    const there = await count(cluster.url('postgres'), "select count(*) from pg_database where datname = 'ascenso'");
    if (there > 0 && existsSync(path.join(folder, 'ready')) && !replace)
      throw new Error(
        'There is an installation here already. npm run restore -- FILE --replace puts the backup in its place and keeps the database as it is under another name.',
      );
    await psql('drop database if exists ascenso_restoring');
    await ensureDatabase(cluster, 'ascenso_restoring');
    address = cluster.url('ascenso_restoring');
    swap = async () => {
      const kept = `ascenso_before_${new Date().toISOString().slice(0, 19).replace(/\D/g, '')}`;
      if (there > 0) {
        await psql(`alter database ascenso rename to ${kept}`);
        say(`What was there before is kept in the database ${kept}.`);
      }
      await psql('alter database ascenso_restoring rename to ascenso');
      writeState(path.join(folder, 'ready'), '');
    };
  } else {
    const tables = await count(
      address,
      "select count(*) from pg_tables where schemaname in (current_schema(), 'drizzle')",
    );
    if (tables > 0) throw new Error('The database in DATABASE_URL is not empty: give an empty one.');
    await readBackup(binaries(), file);
  }
  say('Restoring …');
  await fillFrom(address, file);
  await swap();
  const people = await count(
    own ? address.replace('ascenso_restoring', 'ascenso') : address,
    'select count(*) from people',
  );
  say(`Restored: ${people} people. npm start goes on from there, and brings the schema up to date.`);
} catch (error) {
  say(error.message);
  process.exitCode = 1;
} finally {
  for (const stop of stops.reverse()) await stop();
}
