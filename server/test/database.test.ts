import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import net from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { sql } from 'drizzle-orm';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { freePort } from '../../scripts/lib/ports.mjs';
import { bootstrap } from '../src/bootstrap.ts';
import { connect, type Connection } from '../src/db/connect.ts';
import { rows } from '../src/db/rows.ts';
import { startLoops } from '../src/engine/loops.ts';
import { moveClock } from '../src/engine/mover.ts';
import { until } from './support/killing.ts';
import { emailStep, FRIDAY_NOON, migrations, useWorld, waitStep } from './support/world.ts';

const world = useWorld();

describe('behind Debian’s PgBouncer in transaction mode', () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'ascenso-pooler-'));
  let pooler: ChildProcess;
  let pooled: Connection;
  beforeAll(async () => {
    const to = new URL(world.databaseUrl);
    const port = await freePort();
    const name = to.pathname.slice(1);
    writeFileSync(path.join(folder, 'users'), `"${to.username}" "${to.password}"\n`);
    writeFileSync(
      path.join(folder, 'pgbouncer.ini'),
      `[databases]
${name} = host=127.0.0.1 port=${to.port} dbname=${name} user=${to.username} password=${to.password}
[pgbouncer]
listen_addr = 127.0.0.1
listen_port = ${port}
auth_type = scram-sha-256
auth_file = ${folder}/users
pool_mode = transaction
default_pool_size = 8
max_client_conn = 100
unix_socket_dir =
`,
    );
    chmodSync(folder, 0o755);
    const args = process.getuid?.() === 0 ? ['-u', 'nobody'] : [];
    pooler = spawn('/usr/sbin/pgbouncer', ['-q', ...args, path.join(folder, 'pgbouncer.ini')], { stdio: 'pipe' });
    await until(
      'it listens',
      () => {
        return new Promise<boolean>((resolve) => {
          const socket = net.connect(port, '127.0.0.1');
          socket
            .once('error', () => resolve(false))
            .once('connect', () => {
              socket.destroy();
              resolve(true);
            });
        });
      },
      20_000,
    );
    to.port = String(port);
    pooled = connect(to.href, { pooled: true });
  });
  afterAll(async () => {
    await pooled.close();
    pooler.kill('SIGTERM');
    rmSync(folder, { recursive: true, force: true });
  });

  test('a sequence lives its days, with two engines beside the one that moves the clock', async () => {
    await world.live({ steps: [emailStep('First'), waitStep(2), emailStep('Second')] });
    for (let i = 0; i < 30; i++) await world.join(`reader${i}@readers.example`);
    const failures: unknown[] = [];
    const stops = [0, 1].map(() => startLoops(pooled, world.sending, (error) => failures.push(error)));
    await moveClock(pooled, world.sending, FRIDAY_NOON + 5 * 86_400_000, null);
    await Promise.all(stops.map((stop) => stop()));
    const sent = world.mail().map((m) => `${m.to} ${m.subject}`);
    expect(sent).toHaveLength(60);
    expect(new Set(sent).size).toBe(60);
    expect(failures).toEqual([]);
  });

  test('one move at a time, however the connections are dealt', async () => {
    let inside!: () => void;
    const begun = new Promise<void>((resolve) => (inside = resolve));
    const first = moveClock(pooled, world.sending, (await world.now()) + 3_600_000, {
      act: async () => {
        inside();
        await expect(moveClock(pooled, world.sending, FRIDAY_NOON * 2, null)).rejects.toMatchObject({ code: 'moving' });
        return { acted: 0, nextAt: null };
      },
    });
    await begun;
    await first;
  });

  test('a question that takes too long is ended, and what it set is nobody’s after it', async () => {
    const never = new AbortController().signal;
    await expect(pooled.asking.ask('one', never, (on) => on.execute(sql`select pg_sleep(60)`))).rejects.toMatchObject({
      code: 'too-long',
    });
    for (let i = 0; i < 20; i++)
      expect(await rows(pooled.db, sql`select current_setting('statement_timeout') as t`)).toEqual([{ t: '0' }]);
  });
});

test('a role that owns nothing but a schema sets everything up, twice', async () => {
  const url = new URL(world.databaseUrl);
  const admin = new pg.Client(process.env.TEST_DATABASE_URL);
  await admin.connect();
  const name = `tenant_${Date.now()}`;
  await admin.query(`create database ${name}`);
  await admin.query(`create role ${name} login password 'linen'`);
  await admin.query(`revoke all on database ${name} from public`);
  await admin.query(`grant connect, temporary on database ${name} to ${name}`);
  await admin.query(`alter role ${name} in database ${name} set search_path = rented`);
  url.pathname = `/${name}`;
  const inside = new pg.Client(url.href);
  await inside.connect();
  await inside.query(`create schema rented authorization ${name}`);
  await inside.query('revoke all on schema public from public');
  await inside.end();
  url.username = name;
  url.password = 'linen';
  const connection = connect(url.href);
  const what = {
    workspace: { name: 'Rented', zone: 'Europe/Lisbon', currency: 'EUR' },
    users: [],
    attributes: [],
    sender: { name: 'Ada', email: 'ada@elsewhere.example' },
    practiceFrom: FRIDAY_NOON,
  };
  expect((await bootstrap(connection, migrations, what)).fresh).toBe(true);
  // As a release does that did not know of this kind of event: the set-up of the next one brings it.
  await connection.db.execute(sql`delete from event_kinds where name = 'offer.seen'`);
  expect((await bootstrap(connection, migrations, what)).fresh).toBe(false);
  expect(await rows(connection.db, sql`select label from event_kinds where name = 'offer.seen'`)).toEqual([
    { label: 'Saw an offer' },
  ]);
  const found = await rows<{ schema: string }>(
    connection.db,
    sql`select distinct schemaname as schema from pg_tables where tableowner = current_user`,
  );
  expect(found).toEqual([{ schema: 'rented' }]);
  await connection.close();
  await admin.query(`drop database ${name}`);
  await admin.query(`drop role ${name}`);
  await admin.end();
});
