import { readFileSync } from 'node:fs';
import path from 'node:path';
import { agent } from 'supertest';
import { afterAll, beforeAll, expect, test, vi } from 'vitest';
import type { NumbersAnswer } from '@ascenso/contracts';
import { startPostgres, startReplica, type Cluster, type Replica } from '../../scripts/lib/postgres.mjs';
import { connect, type Connection } from '../src/db/connect.ts';
import { readReplica, type Reading } from '../src/db/reading.ts';
import { emailStep, owner, World } from './support/world.ts';

// PostgreSQL's own streaming replication, of a cluster and a replica that are made here.
const world = new World();
let primary: Cluster;
let replica: Replica;
let there: Connection;
let reading: Reading;
let ines: ReturnType<typeof agent>;
let sequence: string;

const database = () => new URL(world.databaseUrl).pathname.slice(1);
/** What a server has been asked since a place in its log. */
const asked = (log: string, from = 0) => readFileSync(log, 'utf8').slice(from);
const numbers = () => ines.get(`/api/sequences/${sequence}/numbers`).expect(200);
const joined = async () => ((await numbers()).body as NumbersAnswer).joined;
const until = (what: () => Promise<unknown>) => vi.waitFor(what, { timeout: 30_000, interval: 200 });

beforeAll(async () => {
  primary = await startPostgres('reading-test', { fresh: true, fast: true });
  await world.open(primary.url('postgres'));
  await world.connection.pool.query("alter system set log_statement = 'all'");
  await world.connection.pool.query('select pg_reload_conf()');
  replica = await startReplica(primary);
  there = connect(replica.url(database()));
  reading = readReplica(replica.url(database()), world.connection);
  ines = agent(world.serve({ reading }));
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  sequence = await world.live({ steps: [emailStep('Letter')] });
  await world.join('marta@readers.example');
  await world.ahead(await world.now());
}, 180_000);
afterAll(async () => {
  await reading.close();
  await there.close();
  await world.close();
  await replica.remove();
  await primary.remove();
});

test('numbers, forecast and counts are read from the replica, everything else from the primary', async () => {
  await until(async () => expect(await joined()).toBe(1));
  const logs = { primary: path.join(primary.data, 'server.log'), replica: replica.log };
  const marks = { primary: asked(logs.primary).length, replica: asked(logs.replica).length };
  await numbers();
  await ines.get('/api/forecast').expect(200);
  const condition = { kind: 'tag', tag: 'keen', has: true };
  await ines.post('/api/conditions/count').send({ condition }).expect(200);
  await world.join('jonas@readers.example');
  await ines.get(`/api/sequences/${sequence}`).expect(200);
  const said = { primary: asked(logs.primary, marks.primary), replica: asked(logs.replica, marks.replica) };
  expect(said.replica).toMatch(/from tally_totals/);
  expect(said.replica).toMatch(/select count\(\*\).*from people/);
  expect(said.replica).toMatch(/= any \(p\.tags\)/);
  expect(said.replica).not.toMatch(/\b(insert into|update \w+ set|delete from)\b/i);
  expect(said.primary).toMatch(/insert into (people|memberships|events)/i);
  expect(said.primary).not.toMatch(/= any \(p\.tags\)/);
});

test('a replica that is behind answers with what it has, and its age is told; caught up, there is none', async () => {
  await there.pool.query('select pg_wal_replay_pause()');
  const before = await joined();
  await world.join('zoe@readers.example');
  await world.ahead(await world.now());
  await until(async () => {
    const { headers, body } = await numbers();
    expect(Number(headers.age)).toBeGreaterThanOrEqual(1);
    expect((body as NumbersAnswer).joined).toBe(before);
  });
  await there.pool.query('select pg_wal_replay_resume()');
  await until(async () => {
    const { headers, body } = await numbers();
    expect(headers.age).toBeUndefined();
    expect((body as NumbersAnswer).joined).toBeGreaterThan(before);
  });
});

test('a replica that is gone costs nobody an answer: the primary gives it', async () => {
  const before = await joined();
  await replica.stop();
  await until(async () => expect(await joined()).toBe(before));
});
