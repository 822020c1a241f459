import { existsSync, mkdirSync, readdirSync, readFileSync, statSync } from 'node:fs';
import path from 'node:path';
import { has, isRoot, root, run, say } from './run.mjs';

export const stateDir = path.join(root, '.ascenso');

const modules = path.join(root, 'node_modules');
const packagesIn = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')).packages : {});

/** Whether what is installed is what the lock file names: npm writes down what it installed once it is through. */
function isInstalled(wanted) {
  const there = packagesIn(path.join(modules, '.package-lock.json'));
  return Object.entries(wanted).every(
    ([name, { version, link, optional, peer }]) =>
      !name.startsWith('node_modules/') || (name in there ? link || there[name].version === version : optional || peer),
  );
}

/** How many packages lie in a folder of them, those inside others left out. */
const countIn = (folder) =>
  !existsSync(folder)
    ? 0
    : readdirSync(folder).reduce(
        (sum, name) =>
          sum + (name.startsWith('@') ? readdirSync(path.join(folder, name)).length : name[0] === '.' ? 0 : 1),
        0,
      );

/** Installs the packages of the lock file, where they are not there; says how far it is. */
export async function ensurePackages() {
  const wanted = packagesIn(path.join(root, 'package-lock.json'));
  if (isInstalled(wanted)) return;
  const all = Object.keys(wanted).filter((name) => /^node_modules\/(@[^/]+\/)?[^/]+$/.test(name)).length;
  say(`Installing ${all} packages from the registry, which takes a few minutes the first time …`);
  let last = 0;
  const look = setInterval(() => {
    const n = Math.min(countIn(modules), all);
    if (n > last) say(`  ${(last = n)} of ${all} packages`);
  }, 5_000);
  try {
    await run('npm', ['ci', '--no-audit', '--no-fund']);
  } catch (error) {
    throw new Error(`The packages could not be installed; start again to go on.\n${error.message}`);
  } finally {
    clearInterval(look);
  }
}

/** Newest change under some paths, as a number. */
function newest(paths) {
  let time = 0;
  const look = (p) => {
    const s = statSync(p);
    if (!s.isDirectory()) time = Math.max(time, s.mtimeMs);
    else for (const name of readdirSync(p)) if (!/^(dist|node_modules|test|\.)/.test(name)) look(path.join(p, name));
  };
  paths
    .map((p) => path.join(root, p))
    .filter(existsSync)
    .forEach(look);
  return time;
}

async function buildIf(output, inputs, what, build) {
  const file = path.join(root, output);
  if (existsSync(file) && statSync(file).mtimeMs >= newest([...inputs, 'package-lock.json'])) return;
  say(what);
  await build();
}

const vite = (folder) => run('npx', ['vite', 'build', '--logLevel', 'warn'], { cwd: path.join(root, folder) });

/** The slim mjml bundle: everything that compiles an email needs it. */
export const ensureMjml = () =>
  buildIf('mjml-slim/dist/index.js', ['mjml-slim'], 'Building the email compiler …', () =>
    run('node', ['mjml-slim/build.mjs']),
  );

/** Everything that npm start and the browser tests serve. */
export async function ensureBuilt() {
  await ensureMjml();
  await buildIf('server/dist/web.js', ['core', 'contracts', 'server', 'mjml-slim/dist'], 'Building the server …', () =>
    vite('server'),
  );
  await buildIf('standins/dist/mailbox.js', ['standins'], 'Building the simulated outside world …', () =>
    vite('standins'),
  );
  await buildIf(
    'web/dist/index.html',
    ['core', 'contracts', 'web', 'mjml-slim/dist'],
    'Building the web application …',
    () => vite('web'),
  );
}

/** Installs Debian packages, as root or by sudo; with neither, says what to install. */
export async function aptInstall(packages, why) {
  const sudo = isRoot ? [] : has('sudo') ? ['sudo', '-n'] : null;
  const advice = `${why} Install it with: apt-get install ${packages.join(' ')}`;
  if (!sudo || !has('apt-get')) throw new Error(advice);
  say(`Installing ${packages.join(', ')} from Debian …`);
  const apt = (...args) => {
    const [command, ...rest] = [...sudo, 'apt-get', '-o', 'DPkg::Lock::Timeout=300', ...args];
    return run(command, rest, { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } });
  };
  try {
    await apt('update');
    await apt('install', '-y', '--no-install-recommends', ...packages);
  } catch (error) {
    throw new Error(`${advice}\n${error.message}`);
  }
}

/** Debian's chromium and a font with emoji, for the browser tests and the pictures. */
export async function ensureChromium() {
  if (!existsSync('/usr/bin/chromium'))
    await aptInstall(['chromium', 'fonts-noto-color-emoji', 'fonts-liberation'], 'The browser tests need chromium.');
}

/** What Debian ships that the server's tests are held against: by a file of each, its package, and what it is for. */
const JUDGES = [
  ['/usr/share/perl5/Mail/SpamAssassin.pm', 'spamassassin', 'ask SpamAssassin about every email'],
  ['/usr/bin/identify', 'imagemagick', 'let ImageMagick look at every timer'],
  ['/usr/sbin/exim4', 'exim4-daemon-light', 'hand emails to Debian’s own mail server'],
  ['/usr/sbin/pgbouncer', 'pgbouncer', 'run behind a pool of connections'],
  ['/usr/bin/openssl', 'openssl', 'make certificates for loopback'],
];

/** Installs them, all at once. */
export async function ensureJudges() {
  const missing = JUDGES.filter(([file]) => !existsSync(file));
  if (missing.length > 0)
    await aptInstall(
      missing.map(([, name]) => name),
      `The tests ${missing.map(([, , what]) => what).join(', ')}.`,
    );
}

mkdirSync(stateDir, { recursive: true });
