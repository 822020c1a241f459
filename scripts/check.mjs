import { existsSync, readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import { root, run, say } from './lib/run.mjs';
import { ensureMjml, ensurePackages } from './lib/setup.mjs';

// What a change touches: npm run check for what is not committed yet, npm run check -- main~3 for what changed since then.
// Format and lint of the changed files, the types of the rooms that see the change, the tests of core, web, stand-ins and
// scripts that reach a changed file, and those of the server that name one, by an import or by their own name. It is a
// first answer, within a minute; the whole one is npm test.
const since = process.argv[2] ?? 'HEAD';
const git = (...args) => run('git', args).then((text) => text.split('\n').filter(Boolean));
await ensurePackages();
await ensureMjml();
const changed = [
  ...new Set([
    ...(await git('diff', '--name-only', '--diff-filter=d', since)),
    ...(await git('ls-files', '--others', '--exclude-standard')),
  ]),
].filter((file) => existsSync(path.join(root, file)));
if (changed.length === 0) {
  say(`Nothing has changed since ${since}.`);
  process.exit(0);
}
const code = changed.filter((file) => /\.tsx?$/.test(file));

/** Tests of the server that name a changed file: by an import, by their own name, or since they are one. */
function testsOfServer() {
  const files = code.filter((file) => file.startsWith('server/'));
  const tests = readdirSync(path.join(root, 'server/test'), { recursive: true })
    .filter((file) => file.endsWith('.test.ts'))
    .map((file) => `server/test/${file}`);
  return tests.filter((test) => {
    const text = readFileSync(path.join(root, test), 'utf8');
    return files.some((file) => {
      const name = path.basename(file);
      return file === test || text.includes(`/${name}'`) || path.basename(test) === name.replace('.ts', '.test.ts');
    });
  });
}

let failed = 0;
async function step(name, work) {
  const begun = Date.now();
  try {
    await work();
    say(`ok  ${name}  (${Math.round((Date.now() - begun) / 1000)} s)`);
  } catch (error) {
    failed++;
    say(`FAILED  ${name}\n${error.message}`);
  }
}
const env = { ...process.env, NO_COLOR: '1' };
const npx = (...args) => run('npx', args, { env });
say(`${changed.length} changed ${changed.length === 1 ? 'file' : 'files'} since ${since}.`);
await step('format', () => npx('prettier', '--check', '--ignore-unknown', ...changed));
if (code.length > 0) {
  await step('types', () => run('node', ['scripts/types.mjs']));
  await step('lint', () => run('node', ['scripts/lint.mjs', ...code]));
  const quick = ['core', 'web', 'standins', 'scripts'].flatMap((name) => ['--project', name]);
  await step('tests that reach it', () => npx('vitest', 'related', '--run', '--passWithNoTests', ...quick, ...code));
}
const tests = testsOfServer();
if (tests.length > 0)
  await step(`tests of the server: ${tests.map((t) => path.basename(t)).join(', ')}`, async () => {
    const { startPostgres } = await import('./lib/postgres.mjs');
    const cluster = await startPostgres('check-cluster', { fast: true });
    try {
      const at = { ...env, TEST_DATABASE_URL: cluster.url('postgres') };
      await run('npx', ['vitest', 'run', '--project', 'server', '--project', 'server alone', ...tests], { env: at });
    } finally {
      await cluster.remove();
    }
  });
process.exitCode = failed > 0 ? 1 : 0;
