import { chownSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { spawnSync } from 'node:child_process';
import { aptInstall, stateDir } from './setup.mjs';
import { isRoot, run } from './run.mjs';

/** A port nobody listens on, on loopback. */
export const freePort = () =>
  new Promise((resolve, reject) => {
    const server = createServer();
    server.on('error', reject);
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });

function binaries() {
  const base = '/usr/lib/postgresql';
  const versions = existsSync(base) ? readdirSync(base).filter((v) => existsSync(`${base}/${v}/bin/initdb`)) : [];
  const newest = versions.sort((a, b) => Number(b) - Number(a))[0];
  return newest ? `${base}/${newest}/bin` : null;
}

// PostgreSQL refuses to run as root: then Debian's postgres user runs it.
const asServer = (command, args) =>
  isRoot ? ['runuser', ['-u', 'postgres', '--', command, ...args]] : [command, args];
const runServer = (command, args) => run(...asServer(command, args), { cwd: '/' });

/**
 * A private cluster on loopback, made where it is missing and started. `name` keeps clusters apart. As root the data
 * lies where the postgres user can reach it; otherwise beside the project's other state.
 */
export async function startPostgres(name, { fresh = false, fast = false } = {}) {
  if (!binaries()) await aptInstall(['postgresql'], 'Ascenso keeps its data in PostgreSQL.');
  const bin = binaries();
  const home = path.join(stateDir, name);
  mkdirSync(home, { recursive: true });
  const where = path.join(home, 'where');
  // As root, the project's folder may be closed to the postgres user: its data then has a folder of its own.
  const data = existsSync(where)
    ? readFileSync(where, 'utf8')
    : isRoot
      ? path.join('/var/lib/postgresql', `ascenso-${name}-${process.pid}-${Date.now()}`)
      : path.join(home, 'data');
  const stop = async () => {
    if (existsSync(path.join(data, 'postmaster.pid')))
      await runServer(`${bin}/pg_ctl`, ['-D', data, '-m', 'fast', '-w', 'stop']).catch(() => undefined);
  };
  if (fresh) {
    await stop();
    rmSync(data, { recursive: true, force: true });
  }
  if (!existsSync(path.join(data, 'PG_VERSION'))) {
    mkdirSync(data, { recursive: true, mode: 0o700 });
    if (isRoot) {
      const uid = Number(spawnSync('id', ['-u', 'postgres']).stdout.toString());
      const gid = Number(spawnSync('id', ['-g', 'postgres']).stdout.toString());
      chownSync(data, uid, gid);
    }
    await runServer(`${bin}/initdb`, ['-D', data, '-U', 'ascenso', '-A', 'trust', '-E', 'UTF8', '--locale=C.UTF-8']);
    writeFileSync(where, data);
  }
  const running = spawnSync(...asServer(`${bin}/pg_ctl`, ['-D', data, 'status']), { cwd: '/' }).status === 0;
  let port;
  if (running) port = Number(readFileSync(path.join(data, 'postmaster.pid'), 'utf8').split('\n')[3]);
  else {
    port = await freePort();
    const settings = [
      '-c',
      `port=${port}`,
      '-c',
      'listen_addresses=127.0.0.1',
      '-c',
      `unix_socket_directories=${os.tmpdir()}`,
      '-c',
      'shared_buffers=256MB',
      '-c',
      'max_wal_size=2GB',
      '-c',
      'jit=off',
      '-c',
      'max_connections=100',
      ...(fast ? ['-c', 'fsync=off', '-c', 'synchronous_commit=off', '-c', 'full_page_writes=off'] : []),
    ];
    await runServer(`${bin}/pg_ctl`, [
      '-D',
      data,
      '-w',
      '-t',
      '60',
      '-l',
      path.join(data, 'server.log'),
      '-o',
      settings.join(' '),
      'start',
    ]);
  }
  const url = (database) => `postgres://ascenso@127.0.0.1:${port}/${database}`;
  return {
    url,
    bin,
    stop,
    remove: async () => {
      await stop();
      rmSync(data, { recursive: true, force: true });
      rmSync(home, { recursive: true, force: true });
    },
  };
}

/** Makes a database in a cluster unless it is there. */
export async function ensureDatabase(cluster, name) {
  await run(`${cluster.bin}/createdb`, ['--maintenance-db', cluster.url('postgres'), name]).catch((error) => {
    if (!/already exists/.test(error.message)) throw error;
  });
}

/** Whether a commit waits for the disk. Takes hold in running connections too. */
export async function setDurable(cluster, on) {
  const sql = (text) => run(`${cluster.bin}/psql`, [cluster.url('postgres'), '-q', '-c', text]);
  await sql(`alter system set synchronous_commit = ${on ? 'on' : 'off'}`);
  await sql('select pg_reload_conf()');
}
