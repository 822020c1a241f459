import http from 'node:http';
import type { AddressInfo, Server } from 'node:net';
import { sql } from 'drizzle-orm';
import type { Express } from 'express';
import request, { agent } from 'supertest';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readProxies } from '../../src/app/config.ts';
import { firstRow, rows } from '../../src/db/rows.ts';
import { cloudEvent, emailStep, owner, useWorld } from '../support/world.ts';

const world = useWorld();
let server: Server;
let send = '';
beforeAll(async () => {
  await world.live({ steps: [emailStep('Letter', { address: 'https://foldwell.example/kits' })] });
  await world.join('marta@readers.example');
  await world.ahead(await world.now());
  send = (await firstRow<{ id: string }>(world.connection.db, sql`select id from sends limit 1`))?.id as string;
  server = world.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

/** Uploads a form of so many fields, and answers the status. */
const upload = (fields: number, bytes: number, cookie = '') =>
  new Promise<number>((resolve, reject) => {
    const req = http.request(
      {
        port: (server.address() as AddressInfo).port,
        host: '127.0.0.1',
        method: 'POST',
        path: '/api/files',
        headers: { 'content-type': 'multipart/form-data; boundary=x', ...(cookie ? { cookie } : {}) },
      },
      (res) => {
        res.resume();
        resolve(res.statusCode ?? 0);
        // The answer has come: whoever still pushes is hung up on.
        req.destroy();
      },
    );
    req.on('error', (e) => ((e as { code?: string }).code === 'EPIPE' || req.destroyed ? undefined : reject(e)));
    const value = 'x'.repeat(bytes);
    let left = fields;
    const push = (): void => {
      while (left-- > 0)
        if (!req.write(`--x\r\nContent-Disposition: form-data; name="f${left}"\r\n\r\n${value}\r\n`))
          return void req.once('drain', push);
      req.end('--x--\r\n');
    };
    push();
  });

describe('uploads', () => {
  test('a stranger’s form of thousands of fields is refused before it is read', async () => {
    const before = process.memoryUsage().rss;
    for (let i = 0; i < 5; i++) expect(await upload(4_000, 20_000)).toBe(401);
    expect((process.memoryUsage().rss - before) / 1e6).toBeLessThan(200);
  });

  test('an editor sends one file and nothing beside it', async () => {
    const own = agent(server);
    const signedIn = await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    const cookie = (signedIn.headers['set-cookie'] as unknown as string[])[0]?.split(';')[0] as string;
    expect(await upload(3, 10, cookie)).toBe(400);
    const png = Buffer.from(
      'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
      'base64',
    );
    await own.post('/api/files').attach('file', png, 'one.png').expect(200);
  });
});

describe('signing in', () => {
  const tryIn = (email: string, password: string) => request(server).post('/api/session').send({ email, password });

  test('is limited by account: the one that is tried, and no other', async () => {
    for (let i = 0; i < 20; i++) await tryIn('victim@foldwell.example', 'wrong').expect(401);
    await tryIn('Victim@Foldwell.example ', 'wrong').expect(429);
    await tryIn(owner.email, owner.password).expect(200);
  });

  test('counts whoever a trusted proxy names, and nobody that a stranger names', async () => {
    const tryFrom = (app: Express, from: string) =>
      request(app)
        .post('/api/session')
        .set('X-Forwarded-For', from)
        .send({ email: 'v@foldwell.example', password: 'x' });
    const behind = world.serve({ trustProxy: 1 });
    for (let i = 0; i < 20; i++) await tryFrom(behind, '203.0.113.5').expect(401);
    await tryFrom(behind, '203.0.113.5').expect(429);
    await tryFrom(behind, '198.51.100.1, 203.0.113.5').expect(429);
    await tryFrom(behind, '203.0.113.6').expect(401);
    const bare = world.serve();
    for (let i = 0; i < 20; i++) await tryFrom(bare, `203.0.113.${i}`).expect(401);
    await tryFrom(bare, '203.0.113.99').expect(429);
  });

  test.each([
    ['', false],
    ['0', false],
    ['2', 2],
    ['loopback, 10.1.0.0/16', ['loopback', '10.1.0.0/16']],
  ])('TRUST_PROXY=%s', (text, read) => expect(readProxies(text)).toEqual(read));
  test.each(['true', 'everybody', '10.0.0', '1, x'])('TRUST_PROXY=%s is an error that names it', (text) => {
    expect(() => readProxies(text)).toThrow(/TRUST_PROXY is the number of reverse proxies/);
  });

  test('what is no try at all locks nobody out', async () => {
    for (let i = 0; i < 30; i++) await request(server).post('/api/session').send({ nonsense: i }).expect(422);
    await tryIn(owner.email, owner.password).expect(200);
  });
});

describe('openings', () => {
  const count = async (kind: string) =>
    (await rows(world.connection.db, sql`select 1 from readings where send_id = ${send} and kind = ${kind}`)).length;

  test('HEAD counts nothing; a thousand openings in a minute are one', async () => {
    await request(server)
      .head(`${world.path('o', send)}.gif`)
      .expect(200);
    await request(server)
      .head(`${world.path('c', send)}/0`)
      .expect(302);
    expect([await count('open'), await count('click')]).toEqual([0, 0]);
    for (let i = 0; i < 50; i++)
      await request(server)
        .get(`${world.path('o', send)}.gif`)
        .expect(200);
    expect(await count('open')).toBe(1);
    await world.stand((await world.now()) + 61_000);
    await request(server)
      .get(`${world.path('o', send)}.gif`)
      .expect(200);
    expect(await count('open')).toBe(2);
  });
});

describe('payloads that cannot be kept name their place; what came with them is taken', () => {
  const deep = (n: number): unknown => (n === 0 ? 1 : { a: deep(n - 1) });
  const cases: [string, string, string][] = [
    ['a NUL', '{"note": "a\\u0000b"}', 'data.note'],
    ['half a character', '{"note": "\\ud83d"}', 'data.note'],
    ['half a character in a list', '{"lines": [{"title": "\\udc00"}]}', 'data.lines.0.title'],
    ['a number that is none', '{"total": 1e400}', 'data.total'],
    ['nesting of 40', JSON.stringify({ x: deep(40) }), `data.x${'.a'.repeat(32)}`],
  ];
  test.each(cases)('%s', async (_name, data, field) => {
    const good = cloudEvent({ type: 'item.viewed', subject: 'marta@readers.example' });
    const bad = JSON.stringify({ ...good, id: `bad-${field}-${data.length}`, data: '@@' }).replace('"@@"', data);
    const answer = await request(server)
      .post('/intake/events')
      .set('Authorization', `Bearer ${world.key}`)
      .set('Content-Type', 'application/cloudevents-batch+json')
      .send(`[${bad},${JSON.stringify(good)}]`)
      .expect(207);
    expect(answer.body.events[0].error).toMatchObject({ field });
    expect(answer.body).toMatchObject({ stored: 1, refused: 1 });
  });

  const days = [
    ['2026-02-30', 422],
    ['2026-03-06junk', 422],
    ['0099-05-01', 422],
    ['2026-03-06T25:00:00Z', 422],
    ['2028-02-29', 202],
    ['2026-03-06T11:00:00+01:00', 202],
  ] as const;
  const kind = { name: 'kiln.booked', label: 'Kiln booked', fields: [{ name: 'day', type: 'date' }], sample: {} };
  beforeAll(async () => {
    const own = agent(server);
    await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    await own.put('/api/event-kinds').send(kind).expect(200);
  });
  test.each(days)('a field that is declared a date: %s is answered %i', async (day, status) => {
    const answer = await world.event({ type: kind.name, subject: 'marta@readers.example', data: { day } });
    expect([answer.status, answer.body.field]).toEqual([status, status === 422 ? 'data.day' : undefined]);
  });
  test.each([
    ['2026-02-30T00:00:00Z', 422],
    ['0099-05-01T00:00:00Z', 422],
    ['2026-03-06t11:00:00z', 202],
  ])('the time of an event: %s is answered %i', async (time, status) => {
    const event = { ...cloudEvent({ type: 'item.viewed', subject: 'marta@readers.example' }), time };
    const answer = await request(server)
      .post('/intake/events')
      .set('Authorization', `Bearer ${world.key}`)
      .set('Content-Type', 'application/cloudevents+json')
      .send(JSON.stringify(event));
    expect([answer.status, answer.body.field]).toEqual([status, status === 422 ? 'time' : undefined]);
  });

  test('a kind learns 200 fields of a sender’s thousand, and a sample of 16 kB', async () => {
    const many = Object.fromEntries(Array.from({ length: 1_000 }, (_, i) => [`f${i}`, 'x'.repeat(500)]));
    const data = { ...many, ['n'.repeat(5_000)]: 1 };
    await world.event({ type: 'flood.sent', subject: 'marta@readers.example', data }).expect(202);
    const kind = await firstRow<{ fields: unknown[]; sample: object }>(
      world.connection.db,
      sql`select fields, sample from event_kinds where name = 'flood.sent'`,
    );
    expect(kind?.fields).toHaveLength(200);
    expect(JSON.stringify(kind).length).toBeLessThan(30_000);
    expect(JSON.stringify(kind?.sample).length).toBeLessThanOrEqual(16_000);
  });

  test('the text “\\u0000”, written out, is no NUL, and nesting of 32 is kept', async () => {
    for (const data of [{ note: 'the escape \\u0000 in words' }, deep(32) as Record<string, unknown>])
      await world.event({ type: 'item.viewed', subject: 'marta@readers.example', data }).expect(202);
  });
});

describe('conditions that are made up to be dear', () => {
  const atom = (i: number) => ({
    kind: 'event',
    event: `item.viewed${i}`,
    done: true,
    since: { kind: 'ever' },
    where: [{ field: 'title', op: 'contains', value: 'x' }],
  });
  const all = (n: number) => ({ kind: 'all', of: Array.from({ length: n }, (_, i) => atom(i)) });
  const signedIn = async () => {
    const own = agent(server);
    await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    return own;
  };

  test('twenty times twenty questions are refused, ten times ten answered', async () => {
    const own = await signedIn();
    const many = (n: number) => ({ condition: { kind: 'any', of: Array.from({ length: n }, () => all(n)) } });
    const answer = await own.post('/api/conditions/count').send(many(20)).expect(422);
    expect(answer.body.error.message).toMatch(/100 things at most/);
    await own.post('/api/conditions/count').send(many(10)).expect(200);
  });

  test('what takes too long is ended, alone: others and the engine go on meanwhile', async () => {
    const { asking, db } = world.connection;
    const never = new AbortController().signal;
    const slow = asking
      .ask('one', never, (on) => on.execute(sql`select pg_sleep(60)`))
      .then(() => null)
      .catch((e: { status: number; code: string }) => [e.status, e.code]);
    expect(await rows(db, sql`select 1 as n`)).toEqual([{ n: 1 }]);
    expect(await asking.ask('two', never, (on) => rows(on, sql`select 1 as n`))).toEqual([{ n: 1 }]);
    expect(await slow).toEqual([503, 'too-long']);
  });

  test('when whoever asked has gone, their question ends; a user has two at once, the others wait in line', async () => {
    const { asking, db } = world.connection;
    const leaving = new AbortController();
    const asked = Array.from({ length: 4 }, () =>
      asking.ask('three', leaving.signal, (on) => on.execute(sql`select pg_sleep(3), 'three'`)).catch(() => 'ended'),
    );
    const running = () =>
      rows(
        db,
        sql`select 1 from pg_stat_activity where datname = current_database() and state = 'active' and query like '%''three''%' and pid <> pg_backend_pid()`,
      );
    await expect.poll(async () => (await running()).length, { timeout: 2_000 }).toBe(2);
    leaving.abort();
    await expect.poll(async () => (await running()).length, { timeout: 2_000 }).toBeLessThanOrEqual(2);
    expect(await Promise.all(asked.slice(0, 2))).toEqual(['ended', 'ended']);
    await Promise.all(asked);
  });
});
