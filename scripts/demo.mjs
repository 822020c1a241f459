import path from 'node:path';
import { root, run, say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

// Lives the demo through once and keeps it as demo/history.br, which every start brings back: npm run demo. The people do
// one thing after the other, and chance follows a seed: the same release makes the same bytes.
// `npm run demo -- --days 14 --people 60 --into FILE` keeps a smaller one, `--weeks 3` the first three weeks; `--quick` packs
// it quickly, and not as small as it gets.
const valueOf = (flag, otherwise) => {
  const at = process.argv.indexOf(flag);
  return at > 0 ? process.argv[at + 1] : otherwise;
};
const [days, people, weeks] = [
  ['--days', 120],
  ['--people', 2000],
  ['--weeks', 0],
].map(([flag, otherwise]) => Number(valueOf(flag, otherwise)));
const into = path.resolve(valueOf('--into', path.join(root, 'demo/history.br')));
const SEED = '1906';

await ensurePackages();
await ensureBuilt();
const { startApp, stopAll } = await import('./lib/app.mjs');
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void stopAll().then(() => process.exit(1)));
// Addresses stand in what is signed and hashed: so they are the same each time.
const ports = {
  web: 19_061,
  smtp: 19_062,
  mailbox: 19_063,
  crowd: 19_064,
  shop: 19_065,
  figures: 19_066,
  inbox: 19_067,
};
const begun = Date.now();
if (weeks > 0) process.env.DEMO_WEEKS = String(weeks);
try {
  const app = await startApp('demo-lived', {
    fresh: true,
    fast: true,
    engines: 0,
    days,
    people,
    seed: SEED,
    ports,
    report: say,
  });
  say(`Lived through in ${Math.round((Date.now() - begun) / 1000)} s. Packing …`);
  // What the people keep is written when they go.
  for (const one of app.processes) if (one.name !== 'the mailbox') await one.stop();
  const head = {
    format: 'ascenso-history',
    command: 'npm run demo',
    seed: SEED,
    people,
    days: weeks > 0 ? weeks * 7 : days,
  };
  say(
    (
      await run(
        'node',
        [
          'server/dist/history.js',
          'keep',
          into,
          JSON.stringify(head),
          ...(process.argv.includes('--quick') ? ['--quick'] : []),
        ],
        { env: app.env },
      )
    ).trim(),
  );
} catch (error) {
  say(error.message);
  process.exitCode = 1;
}
await stopAll();
process.exit();
