import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import pg from 'pg';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { ensureDatabase, runTool, startPostgres, type Cluster } from '../../../scripts/lib/postgres.mjs';
import { counted } from '../support/tables.ts';
import { emailStep, useWorld } from '../support/world.ts';

const world = useWorld();
const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-backup-'));
const file = path.join(folder, 'all.backup');
let elsewhere: Cluster;
beforeAll(async () => {
  elsewhere = await startPostgres('restore-test', { fresh: true, fast: true });
  await ensureDatabase(elsewhere, 'empty');
  await ensureDatabase(elsewhere, 'other');
}, 120_000);
afterAll(async () => {
  await elsewhere.remove();
  rmSync(folder, { recursive: true, force: true });
});

const npmRun = (script: string, address: string, ...args: string[]) => {
  const ended = spawnSync('node', [`scripts/${script}.mjs`, ...args], {
    cwd: path.resolve(import.meta.dirname, '../../..'),
    env: { ...process.env, DATABASE_URL: address },
    encoding: 'utf8',
  });
  return { status: ended.status, said: ended.stdout + ended.stderr };
};
const into = (database: string) => npmRun('restore', elsewhere.url(database), file);

test('everything of an installation comes back in an empty cluster, to the row', async () => {
  await world.live({ steps: [emailStep('Letter')] });
  for (const name of ['marta', 'jonas', 'zoe']) await world.join(`${name}@readers.example`);
  await world.ahead(await world.now());
  const png = Buffer.from('89504e470d0a1a0a', 'hex');
  await world.connection.db.execute(
    sql`insert into files (workspace_id, id, name, mime, size, sha256, content, created_at) values (${world.ws}, ${world.list}, 'a.png', 'image/png', 8, 'x', ${png}, 0)`,
  );
  expect(npmRun('backup', world.databaseUrl, file)).toEqual({ status: 0, said: expect.stringContaining(file) });
  // Whole people's data lie in it: nobody else on the machine reads it.
  expect(statSync(file).mode & 0o077).toBe(0);
  const restored = into('empty');
  expect(restored.said).toContain('Restored: 3 people.');
  expect(restored.status).toBe(0);
  const client = new pg.Client(elsewhere.url('empty'));
  await client.connect();
  const before = await counted(world.connection.pool);
  expect(await counted(client)).toEqual(before);
  expect(before.size).toBeGreaterThan(30);
  expect((await client.query<{ content: Buffer }>('select content from files')).rows).toEqual([{ content: png }]);
  await client.end();
});

test('a database that holds something is left alone', () => {
  expect(into('empty')).toEqual({ status: 1, said: expect.stringContaining('is not empty: give an empty one.') });
});

test('a backup of a later release is refused by its name, before anything is written', async () => {
  await world.connection.db.execute(
    sql`insert into drizzle.__drizzle_migrations (hash, created_at) values ('of-tomorrow', 9999999999999)`,
  );
  await world.connection.db.execute(sql`update installation set release = '9.1.0'`);
  expect(npmRun('backup', world.databaseUrl, file).status).toBe(0);
  expect(into('other')).toEqual({
    status: 1,
    said: expect.stringMatching(/was made by another release \(9\.1\.0\): 1 of its \d+ migrations/),
  });
  expect(
    (
      await runTool('psql', elsewhere.url('other'), [
        '-qAt',
        '-c',
        "select count(*) from pg_tables where schemaname = 'public'",
      ])
    ).trim(),
  ).toBe('0');
});

test('what is no backup, or only half of one, is told so', () => {
  truncateSync(file, 400);
  expect(into('other')).toEqual({
    status: 1,
    said: expect.stringContaining('is no backup of Ascenso, or is not whole'),
  });
  writeFileSync(file, 'a letter');
  expect(into('other').said).toContain('is no backup of Ascenso, or is not whole');
  rmSync(file);
  expect(into('other').said).toContain(`There is no file ${file}.`);
});
