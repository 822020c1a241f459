import { run, say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

// Kills engine processes in mid-run, 100 times unless told otherwise: npm run kill -- 30
const kills = Number(process.argv[2] ?? 100);
await ensurePackages();
await ensureBuilt();
const { startPostgres } = await import('./lib/postgres.mjs');
const cluster = await startPostgres('kill-cluster', { fresh: true });
try {
  await run('npx', ['vitest', 'run', '--project', 'server', 'kill'], {
    show: true,
    env: { ...process.env, KILLS: String(kills), TEST_DATABASE_URL: cluster.url('postgres') },
  });
} catch {
  say('A promise was broken: see above.');
  process.exitCode = 1;
} finally {
  await cluster.remove();
}
