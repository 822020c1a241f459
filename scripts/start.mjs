import { createHash } from 'node:crypto';
import path from 'node:path';
import { root, say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

const fresh = process.argv.includes('--fresh');
/** A whole number behind a flag; undefined without the flag. */
const numberOf = (flag, example, least) => {
  const at = process.argv.indexOf(flag);
  if (at < 0) return undefined;
  const n = Number(process.argv[at + 1]);
  if (Number.isInteger(n) && n >= least) return n;
  say(`${flag} needs a whole number, such as ${flag} ${example}.`);
  process.exit(2);
};
const people = numberOf('--people', 2000, 1);
const days = numberOf('--days', 120, 0);

const databaseUrl = process.env.DATABASE_URL;
if (databaseUrl && fresh) {
  say('--fresh empties nothing on a server of yours: give it an empty database in DATABASE_URL instead.');
  process.exit(2);
}
// What lies beside the database (mailbox, ports) belongs to it: another database has a folder of its own.
const home =
  process.env.ASCENSO_HOME ??
  (databaseUrl ? `home-${createHash('sha256').update(databaseUrl).digest('hex').slice(0, 8)}` : 'home');

let stopAll = async () => {};
let stopping = false;
const stop = async () => {
  if (stopping) return;
  stopping = true;
  say('\nStopping …');
  await stopAll();
  process.exit(0);
};
// A closed terminal hangs up, and takes no more words.
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop());
process.stdout.on('error', () => undefined);

try {
  await ensurePackages();
  const begun = Date.now();
  await ensureBuilt();
  // Read only now: it needs packages that may have been missing a moment ago.
  const lib = await import('./lib/app.mjs');
  stopAll = lib.stopAll;
  const app = await lib.startApp(home, { fresh, people, days, report: say, databaseUrl });
  say(`\nAscenso is ready after ${Math.round((Date.now() - begun) / 1000)} s:  ${app.base}`);
  say('Sign in as ines@foldwell.example with the password fold-along-the-grain');
  say(`What goes on is logged in ${path.relative(root, app.folder)}/logs.`);
  say('Stop with Ctrl C. Everything is kept for the next start; npm start -- --fresh begins anew.');
} catch (error) {
  if (stopping) await new Promise(() => {});
  say(`\n${error.message}`);
  process.exit(1);
}
