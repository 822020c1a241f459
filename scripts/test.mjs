import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import { endRuns, root, run, say } from './lib/run.mjs';
import { ensureBuilt, ensureChromium, ensureJudges, ensureMjml, ensurePackages } from './lib/setup.mjs';

// Everything that must hold. `npm test -- core server` runs some stages only, `npm test -- server conditions` the files of
// them whose path holds a word. Two stages at a time where each needs one core.
const STAGES = ['lint', 'types', 'core', 'units', 'format', 'rooms', 'server', 'browser'];
const wanted = process.argv.slice(2).filter((word) => STAGES.includes(word));
const files = process.argv.slice(2).filter((word) => !STAGES.includes(word));
if (files.length > 0 && wanted.length === 0) {
  say(`Say which stage “${files[0]}” belongs to: ${STAGES.join(', ')}.`);
  process.exit(1);
}
const counts = { passed: 0, failed: 0 };
const results = path.join(root, 'test-results');
/** Lines that tell how far a stage is begin so: the rest of its output is shown when it fails. */
const PROGRESS = /^ {2}\d+ of \d+/;
const tell = (name) => (line) => PROGRESS.test(line) && say(`${name.padEnd(8)}${line}`);

async function stage(name, work) {
  if (wanted.length > 0 && !wanted.includes(name)) return;
  const begun = Date.now();
  say(`…   ${name}`);
  try {
    const counted = (await work(tell(name))) ?? { passed: 1, failed: 0 };
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

/** Runs stages, as many at once as there are lanes, in the order given. */
async function together(lanes, stages) {
  const waiting = Object.entries(stages);
  const lane = async () => {
    for (let next = waiting.shift(); next; next = waiting.shift()) await stage(...next);
  };
  await Promise.all(Array.from({ length: lanes }, lane));
}

const silently = (command, ...args) => run(command, args).then(() => undefined);

/** Runs vitest projects and counts their tests from its report. */
async function vitest(projects, line, env = {}) {
  const file = path.join(results, `${projects.join('-')}.json`);
  rmSync(file, { force: true });
  const args = [
    'vitest',
    'run',
    ...files,
    ...projects.flatMap((p) => ['--project', p]),
    '--reporter=./scripts/lib/progress-vitest.mjs',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${file}`,
  ];
  let failure = null;
  await run('npx', args, { env: { ...process.env, ...env, NO_COLOR: '1' }, line }).catch((error) => (failure = error));
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
let ending = null;
// Whoever asks again waits for the same end.
const end = () =>
  (ending ??= (async () => {
    for (let stop = stops.pop(); stop; stop = stops.pop()) await stop();
  })());
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    endRuns();
    end().finally(() => process.exit(1));
  });
try {
  await ensurePackages();
  await ensureMjml();
  // The longest first: what is left at the end is short.
  await together(2, {
    lint: () => silently('node', 'scripts/lint.mjs'),
    types: () => silently('node', 'scripts/types.mjs'),
    core: (line) => vitest(['core'], line),
    units: (line) => vitest(['web', 'standins', 'scripts'], line),
    format: () => silently('npx', 'prettier', '--check', '.'),
    rooms: cruise,
  });
  await stage('server', async (line) => {
    // The kill test runs engine processes as npm start does.
    await ensureBuilt();
    await ensureJudges();
    const { startPostgres } = await import('./lib/postgres.mjs');
    const cluster = await startPostgres('test-cluster', { fast: true, fresh: true });
    stops.push(cluster.remove);
    return vitest(['server', 'server alone'], line, { TEST_DATABASE_URL: cluster.url('postgres') });
  });
  await stage('browser', async (line) => {
    await ensureChromium();
    await ensureBuilt();
    const { startApp } = await import('./lib/app.mjs');
    // Each of two browsers has an installation of its own: a clock that one moves is not the other's.
    const apps = await Promise.all(
      [1, 2].map((n) => startApp(`browser-tests-${n}`, { fresh: true, fast: true, days: 14, people: 60 })),
    );
    stops.push(...apps.map((app) => app.stop));
    const file = path.join(results, 'e2e.json');
    rmSync(file, { force: true });
    let failure = null;
    const env = { ...process.env, BASE_URLS: apps.map((app) => app.base).join(' ') };
    await run('npx', ['playwright', 'test', ...files], { env, line }).catch((error) => (failure = error));
    if (!existsSync(file)) throw failure ?? new Error('The browser tests wrote no report.');
    const { stats } = JSON.parse(readFileSync(file, 'utf8'));
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
