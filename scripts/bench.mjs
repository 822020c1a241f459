import { run, say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

// Measures, each against a baseline in the same run: npm run bench, or npm run bench -- send.
await ensurePackages();
await ensureBuilt();
const { startPostgres } = await import('./lib/postgres.mjs');
const cluster = await startPostgres('bench-cluster', { fresh: true });
try {
  await run('node', ['--import', 'tsx', 'bench/src/main.ts', ...process.argv.slice(2)], {
    show: true,
    env: { ...process.env, BENCH_DATABASE_URL: cluster.url('postgres') },
  });
} catch (error) {
  say(error.message);
  process.exitCode = 1;
} finally {
  await cluster.remove();
}
