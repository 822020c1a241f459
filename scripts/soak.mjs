import { run, say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

// Everything at once for ten minutes, or as many as are given: npm run soak -- 60. Any broken rule ends it with an error.
const minutes = Number(process.argv[2] ?? 10);
if (!(minutes > 0)) {
  say('Give the minutes as a number, such as npm run soak -- 60.');
  process.exit(2);
}
await ensurePackages();
await ensureBuilt();
const { startPostgres } = await import('./lib/postgres.mjs');
const cluster = await startPostgres('soak-cluster', { fresh: true });
try {
  await run('npx', ['vitest', 'run', '--project', 'server', 'soak', '--disable-console-intercept'], {
    show: true,
    env: { ...process.env, SOAK_MINUTES: String(minutes), TEST_DATABASE_URL: cluster.url('postgres') },
  });
} catch {
  say('A rule was broken: see above.');
  process.exitCode = 1;
} finally {
  await cluster.remove();
}
