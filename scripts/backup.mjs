import path from 'node:path';
import { say } from './lib/run.mjs';
import { ensurePackages, stateDir } from './lib/setup.mjs';
import { existsSync } from 'node:fs';

// npm run backup -- FILE: everything of this installation in one file. It may run while Ascenso does.
await ensurePackages();
const { backUp } = await import('./lib/backup.mjs');
const { startPostgres } = await import('./lib/postgres.mjs');
const home = process.env.ASCENSO_HOME ?? 'home';
const stamp = new Date().toISOString().slice(0, 16).replace(/[:T]/g, '-');
const file = path.resolve(process.argv[2] ?? `ascenso-${stamp}.backup`);
let stop = async () => {};
try {
  let address = process.env.DATABASE_URL;
  if (!address) {
    if (!existsSync(path.join(stateDir, home, 'ready')))
      throw new Error('There is nothing to back up yet: start with npm start, or name a database in DATABASE_URL.');
    const cluster = await startPostgres(`${home}-db`);
    if (cluster.began) stop = cluster.stop;
    address = cluster.url('ascenso');
  }
  const size = await backUp(address, file);
  say(
    `Everything is in ${file} (${(size / 1e6).toFixed(1)} MB). Keep it where nobody else reads: it holds people’s data.`,
  );
} catch (error) {
  say(error.message);
  process.exitCode = 1;
} finally {
  await stop();
}
