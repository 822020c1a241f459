import { fork } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { parseArgs } from 'node:util';
import { ensurePackages } from './lib/setup.mjs';
import { say } from './lib/run.mjs';

// Breaks core in many small ways and tells which of them no test sees:
//   npm run mutants                      300 of them, drawn by seed 1
//   npm run mutants -- --count 50 --seed 7 core/src/time
// Not in CI: a run takes tens of minutes. Those that are known to be no fault stand in mutants/explained.json with their reason.
const { values, positionals } = parseArgs({
  options: { count: { type: 'string', default: '300' }, seed: { type: 'string', default: '1' } },
  allowPositionals: true,
});
await ensurePackages();
const { pointsOf } = await import('./mutants/points.mjs');

const HEART = ['time', 'audience', 'sequence', 'offer', 'rehearsal', 'email'].map((room) => `core/src/${room}`);
/** Shapes, words and tables: their own tests say them again, word for word. */
const ASIDE = /(schema|describe|words|index|support-data|patterns\/.*|layouts|plan-text|trace-names|gif.*)\.ts$/;

/** A generator of fractions from a seed (mulberry32, public domain). */
function drawing(seed) {
  let a = seed >>> 0;
  return () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}

const root = process.cwd();
const files = (positionals.length ? positionals : HEART)
  .flatMap((p) => (p.endsWith('.ts') ? [p] : readdirSync(p, { recursive: true }).map((f) => join(p, f))))
  .filter((f) => f.endsWith('.ts') && !ASIDE.test(f))
  .sort();
const points = files.flatMap(pointsOf);
const draw = drawing(Number(values.seed));
const drawn = points
  .map((p) => [draw(), p])
  .sort(([a], [b]) => a - b)
  .map(([, p]) => p);
const chosen = [];
for (const p of drawn) {
  if (chosen.length >= Number(values.count)) break;
  if (!chosen.some((c) => c.file === p.file && c.from < p.to && p.from < c.to)) chosen.push(p);
}
const mutants = chosen.map((p, id) => ({ ...p, id }));
say(`${mutants.length} of the ${points.length} places in ${files.length} files.`);

const home = mkdtempSync(join(tmpdir(), 'mutants-'));
writeFileSync(join(home, 'mutants.json'), JSON.stringify(mutants));
const met = join(home, 'met');
const children = new Set();

/** A process that runs mutants; begun anew where one never ends. */
function worker() {
  let child;
  const begin = () =>
    new Promise((done) => {
      child = fork(join(import.meta.dirname, 'mutants/worker.mjs'), {
        env: { ...process.env, ASCENSO_MUTANTS: join(home, 'mutants.json') },
        detached: true,
        stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
      });
      children.add(child);
      child.once('message', done);
    });
  const end = () => {
    children.delete(child);
    process.kill(-child.pid, 'SIGKILL');
  };
  return {
    begin,
    end,
    ask: (order, limit) =>
      new Promise((done, fail) => {
        const late = setTimeout(async () => {
          child.off('message', hear);
          end();
          await begin();
          done({ seen: 'it never comes to an end' });
        }, limit);
        const hear = (answer) => {
          clearTimeout(late);
          if (answer.error) fail(new Error(answer.error));
          else done(answer);
        };
        child.once('message', hear);
        child.send(order);
      }),
  };
}

process.on('exit', () => {
  for (const child of children) process.kill(-child.pid, 'SIGKILL');
  rmSync(home, { recursive: true, force: true });
});
process.on('SIGINT', () => process.exit(130));

const workers = [worker(), worker()];
await Promise.all(workers.map((w) => w.begin()));
const whole = await workers[0].ask({ mutant: -1, met }, 900_000);
if (whole.seen) throw new Error(`The tests of core must pass first: ${whole.seen}`);
const meets = readFileSync(met, 'utf8')
  .trim()
  .split('\n')
  .map((line) => JSON.parse(line))
  .sort(([a], [b]) => whole.took[a] - whole.took[b]);
const LIMIT = 300_000;

const explained = JSON.parse(readFileSync(join(import.meta.dirname, 'mutants/explained.json'), 'utf8'));
const why = (m) => explained.find((e) => e.file === m.file && e.was === m.was && e.is === m.is)?.why;
const seenBy = new Map();
const queue = [...mutants];
await Promise.all(
  workers.map(async (w) => {
    for (let m = queue.shift(); m; m = queue.shift()) {
      const tests = meets.filter(([, ids]) => ids.includes(m.id)).map(([f]) => f);
      const { seen } = tests.length ? await w.ask({ mutant: m.id, met, files: tests }, LIMIT) : {};
      if (seen) seenBy.set(m.id, seen);
      else if (why(m)) say(`explained  ${relative(root, m.file)}:${m.line}  ${m.was}  ->  ${m.is}: ${why(m)}`);
      else
        say(
          `LIVES  ${relative(root, m.file)}:${m.line}  ${m.was}  ->  ${m.is || '(nothing)'}${tests.length ? '' : '  (no test comes here)'}`,
        );
    }
    w.end();
  }),
);
const lives = mutants.filter((m) => !seenBy.has(m.id));
const known = lives.filter(why);
say(
  `${seenBy.size} of ${mutants.length} seen (${((100 * seenBy.size) / mutants.length).toFixed(1)}%), ${known.length} explained, ${lives.length - known.length} live.`,
);
process.exitCode = lives.length > known.length ? 1 : 0;
