import { createHash } from 'node:crypto';
import { say } from './lib/run.mjs';
import { ensureBuilt, ensurePackages } from './lib/setup.mjs';

const fresh = process.argv.includes('--fresh');
const at = process.argv.indexOf('--people');
const people = at > 0 ? Number(process.argv[at + 1]) : 2000;
if (!Number.isInteger(people) || people < 1) {
  say('--people needs a whole number, such as --people 2000.');
  process.exit(2);
}

const databaseUrl = process.env.DATABASE_URL;
if (databaseUrl && fresh) {
  say('--fresh empties nothing on a server of yours: give it an empty database in DATABASE_URL instead.');
  process.exit(2);
}
// What lies beside the database (mailbox, ports) belongs to it: another database has a folder of its own.
const home = databaseUrl ? `home-${createHash('sha256').update(databaseUrl).digest('hex').slice(0, 8)}` : 'home';

let stopAll = async () => {};
let stopping = false;
const stop = async () => {
  if (stopping) return;
  stopping = true;
  say('\nStopping …');
  await stopAll();
  process.exit(0);
};
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());

try {
  await ensurePackages();
  await ensureBuilt();
  // Read only now: it needs packages that may have been missing a moment ago.
  const lib = await import('./lib/app.mjs');
  stopAll = lib.stopAll;
  const begun = Date.now();
  const app = await lib.startApp(home, { fresh, people, report: say, databaseUrl });
  say(`\nAscenso is ready after ${Math.round((Date.now() - begun) / 1000)} s:  ${app.base}`);
  say('Sign in as ines@foldwell.example with the password fold-along-the-grain');
  say('Stop with Ctrl C. Everything is kept for the next start; npm start -- --fresh begins anew.');
} catch (error) {
  if (stopping) await new Promise(() => {});
  say(`\n${error.message}`);
  process.exit(1);
}
