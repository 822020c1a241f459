import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { root, run, say } from './lib/run.mjs';
import {
  ensureBuilt,
  ensureChromium,
  ensureImageMagick,
  ensureMjml,
  ensurePackages,
  ensureSpamAssassin,
} from './lib/setup.mjs';

// Everything that must hold, in the order in which it fails fastest. `npm test -- core server` runs some stages only.
const wanted = process.argv.slice(2);
const counts = { passed: 0, failed: 0 };
const results = path.join(root, 'test-results');

async function stage(name, work) {
  if (wanted.length > 0 && !wanted.includes(name)) return;
  const begun = Date.now();
  try {
    const counted = (await work()) ?? { passed: 1, failed: 0 };
    counts.passed += counted.passed;
    counts.failed += counted.failed;
    say(
      `${counted.failed ? 'FAILED' : 'ok'}  ${name}  (${Math.round((Date.now() - begun) / 1000)} s, ${counted.passed} passed)`,
    );
  } catch (error) {
    counts.failed++;
    say(`FAILED  ${name}\n${error.message}`);
  }
}

/** Runs vitest projects and counts their tests from its report. */
async function vitest(projects, env = {}) {
  const file = path.join(results, `${projects.join('-')}.json`);
  const args = [
    'vitest',
    'run',
    ...projects.flatMap((p) => ['--project', p]),
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${file}`,
  ];
  let failure = null;
  await run('npx', args, { env: { ...process.env, ...env, NO_COLOR: '1' } }).catch((error) => (failure = error));
  if (!existsSync(file)) throw failure ?? new Error('vitest wrote no report.');
  const report = JSON.parse(readFileSync(file, 'utf8'));
  if (failure) say(failure.message);
  return { passed: report.numPassedTests, failed: Math.max(report.numFailedTests, failure ? 1 : 0) };
}

async function cruise() {
  const output = await run('npx', [
    'depcruise',
    '--config',
    '.dependency-cruiser.cjs',
    '--output-type',
    'err',
    'core/src',
    'contracts/src',
    'server/src',
    'web/src',
    'standins/src',
    'demo/src',
    'bench/src',
    'e2e',
  ]);
  // A tool that reads nothing finds nothing: it must have seen the house.
  const modules = Number(/(\d+) modules/.exec(output)?.[1] ?? 0);
  if (modules < 100) throw new Error(`The dependency rule saw only ${modules} modules.\n${output}`);
}

mkdirSync(results, { recursive: true });
const stops = [];
const end = async () => {
  for (const stop of stops.splice(0).reverse()) await stop();
};
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end().then(() => process.exit(1)));
try {
  await ensurePackages();
  await ensureMjml();
  await stage('types', () => run('npx', ['tsc', '-b', '--force']).then(() => undefined));
  await stage('lint', () => run('npx', ['eslint', '.']).then(() => undefined));
  await stage('format', () => run('npx', ['prettier', '--check', '.']).then(() => undefined));
  await stage('rooms', cruise);
  await stage('core', () => vitest(['core']));
  await stage('units', () => vitest(['web', 'standins']));
  await stage('server', async () => {
    // The kill test runs engine processes as npm start does.
    await ensureBuilt();
    await ensureSpamAssassin();
    await ensureImageMagick();
    const { startPostgres } = await import('./lib/postgres.mjs');
    const cluster = await startPostgres('test-cluster', { fast: true, fresh: true });
    stops.push(cluster.remove);
    return vitest(['server'], { TEST_DATABASE_URL: cluster.url('postgres') });
  });
  await stage('browser', async () => {
    await ensureChromium();
    await ensureBuilt();
    const { startApp } = await import('./lib/app.mjs');
    const app = await startApp('browser-tests', { fresh: true, fast: true, days: 14, people: 60, engines: 2 });
    stops.push(app.stop);
    let failure = null;
    await run('npx', ['playwright', 'test'], { env: { ...process.env, BASE_URL: app.base } }).catch(
      (error) => (failure = error),
    );
    const { stats } = JSON.parse(readFileSync(path.join(results, 'e2e.json'), 'utf8'));
    if (failure) say(failure.message);
    return { passed: stats.expected + stats.flaky, failed: Math.max(stats.unexpected, failure ? 1 : 0) };
  });
} catch (error) {
  counts.failed++;
  say(error.message);
} finally {
  await end();
}
say(`${counts.passed} passed, ${counts.failed} failed`);
process.exit(counts.failed === 0 && counts.passed > 0 ? 0 : 1);
