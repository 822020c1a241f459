import http from 'node:http';
import type { AddressInfo, Server } from 'node:net';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { firstRow } from '../../src/db/rows.ts';
import { signText, type Door } from '../../src/mail/token.ts';
import { Chance, SEED } from '../support/chance.ts';
import { cloudEvent, emailStep, useWorld } from '../support/world.ts';

// Whatever a stranger or a broken client sends to the doors that need no session: no answer is a 500, a reader's mail
// program never gets JSON, and memory does not grow with it. SEED=n repeats a run.
const REQUESTS = Number(process.env.REQUESTS ?? 5_000);
const world = useWorld();
const chance = new Chance(SEED);
let server: Server;
let port = 0;
let send = '';
let timer = '';
/** The token of the email's address at a door, or a link of another kind where it has to hold one. */
const tokenOf = (door: Door) => (chance.is(0.9) ? world.path(door, send).slice(3) : timer);

beforeAll(async () => {
  await world.live({ steps: [emailStep('Letter', { address: 'https://foldwell.example/kits' })] });
  await world.join('marta@readers.example');
  await world.ahead(await world.now());
  const sent = await firstRow<{ id: string }>(world.connection.db, sql`select id from sends limit 1`);
  send = sent?.id ?? '';
  timer = signText(world.sending.secret, JSON.stringify({ ws: world.ws, junk: 1 }));
  server = world.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  port = (server.address() as AddressInfo).port;
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

const ODD = [
  '',
  '%',
  '%zz',
  '%00',
  '%c0%af',
  '..%2f..%2f',
  '..',
  "' or 1=1 --",
  '0x0',
  '1e30',
  '-1',
  '1.5',
  'NaN',
  'null',
  '99999999999999999999',
  '\u{1F4EE}',
  'a'.repeat(3000),
  '{{7*7}}',
  '%F0%9F%92%A9',
  '00000000-0000-0000-0000-000000000000',
  'zzzzzzzz-zzzz-zzzz-zzzz-zzzzzzzzzzzz',
  '------------------------------------',
];
const odd = () => encodeURI(chance.pick(ODD)).replaceAll('%25', '%');
const some = (right: string) =>
  chance.is(0.4) ? right : chance.is(0.5) ? odd() : right.slice(0, chance.whole(0, right.length)) + odd();

const VALUES: (() => unknown)[] = [
  () => null,
  () => 1e308,
  () => -0,
  () => '',
  () => 'a\u0000b',
  () => '\ud800',
  () => 'x'.repeat(chance.whole(1, 5_000)),
  () => [],
  () => [[[]]],
  () => ({}),
  () => ({ __proto__: { a: 1 }, constructor: 1 }),
  () => true,
  () => '2026-02-30T00:00:00Z',
  () => '2026-03-06junk',
  () => '0099-05-01T00:00:00Z',
  () => '+275760-09-13T00:00:00.001Z',
  () => 'marta@readers.example',
  () => chance.whole(-1e9, 1e9),
];

/** A body that is right but for some of its fields. */
function mutated(body: Record<string, unknown>): unknown {
  const out: Record<string, unknown> = { ...body };
  for (const key of Object.keys(out)) if (chance.is(0.3)) out[key] = chance.pick(VALUES)();
  if (chance.is(0.2)) out[chance.pick(['', '__proto__', 'x'.repeat(200), 'a.b', 'data'])] = chance.pick(VALUES)();
  if (chance.is(0.1)) return [out, chance.pick(VALUES)(), out];
  return chance.is(0.05) ? chance.pick(VALUES)() : out;
}

const event = () => cloudEvent({ type: 'item.viewed', subject: 'marta@readers.example', data: { total: 20 } });
const bodies: Record<string, () => Record<string, unknown>> = {
  events: () => ({ ...event(), time: '2026-03-06T11:00:00Z' }),
  subscribers: () => ({
    email: 'marta@readers.example',
    lists: ['Workshop letters'],
    attributes: { orders: 2 },
    zone: 'Europe/Lisbon',
  }),
  redeem: () => ({ order: 'F-1', email: 'marta@readers.example', total: 28.8, currency: 'EUR' }),
  cancel: () => ({ order: 'F-1' }),
};
const TYPES = [
  'application/json',
  'application/cloudevents+json',
  'application/cloudevents-batch+json',
  'application/json; charset=utf-7',
  'application/json; charset=',
  'application/x-www-form-urlencoded',
  'multipart/form-data',
  'multipart/form-data; boundary=x',
  'text/plain',
  'nonsense',
];

interface Asked {
  method: string;
  path: string;
  headers: Record<string, string>;
  body?: Buffer;
  page: boolean;
}

function reader(): Asked {
  const path = chance.pick([
    () => `/o/${some(tokenOf('o'))}.gif`,
    () => `/c/${some(tokenOf('c'))}/${some('0')}`,
    () => `/f/${some('01a212d8-a4c0-77ac-a941-000000000000')}`,
    () => `/u/${some(tokenOf('u'))}`,
    () => `/t/${some(tokenOf('t'))}/${some('0')}.gif`,
    () => `/t/${some(chance.is(0.8) ? timer : signText(world.sending.secret, 'form 1'))}.gif`,
  ])();
  const body = chance.is(0.3)
    ? Buffer.from(chance.pick(['List-Unsubscribe=One-Click', 'a=%', '%00', 'a[b][c]=1&'.repeat(200)]))
    : undefined;
  return {
    method: chance.pick(['GET', 'GET', 'GET', 'HEAD', 'POST', 'PUT', 'DELETE', 'OPTIONS']),
    path: path + (chance.is(0.2) ? `?${odd()}=${odd()}` : ''),
    headers: body ? { 'content-type': chance.pick([...TYPES, 'application/x-www-form-urlencoded']) } : {},
    ...(body ? { body } : {}),
    page: true,
  };
}

function shop(): Asked {
  const kind = chance.pick(Object.keys(bodies));
  const code = some('KIT-AC34-VW7T');
  const path = {
    events: '/intake/events',
    subscribers: '/intake/subscribers',
    redeem: `/intake/codes/${code}/redeem`,
    cancel: `/intake/codes/${code}/cancel`,
  }[kind] as string;
  const text = JSON.stringify(mutated((bodies[kind] as () => Record<string, unknown>)()));
  const raw = chance.is(0.1) ? text.slice(0, chance.whole(0, text.length)) : text;
  const looking = chance.is(0.15);
  return {
    method: looking ? 'GET' : chance.is(0.9) ? 'POST' : 'PUT',
    path: looking ? `/intake/codes/${code}?email=${odd()}` : path,
    headers: {
      authorization: chance.is(0.9)
        ? `Bearer ${world.key}`
        : chance.pick(['', 'Bearer', 'Basic x', `bearer ${world.key}`]),
      'content-type': chance.is(0.6) ? 'application/cloudevents+json' : chance.pick(TYPES),
      ...(chance.is(0.05) ? { 'content-encoding': chance.pick(['gzip', 'br', 'x']) } : {}),
    },
    ...(looking ? {} : { body: Buffer.from(raw, chance.is(0.9) ? 'utf8' : 'latin1') }),
    page: false,
  };
}

const ask = ({ method, path, headers, body }: Asked) =>
  new Promise<{ status: number; type: string; text: string }>((resolve, reject) => {
    const req = http.request(
      {
        port,
        host: '127.0.0.1',
        method,
        path: path.replace(/[^\x21-\x7e]/g, '?'),
        headers: { ...headers, ...(body ? { 'content-length': body.length } : {}) },
      },
      (res) => {
        let text = '';
        res.on('data', (d: Buffer) => (text += d.toString('latin1')));
        res.on('end', () => resolve({ status: res.statusCode ?? 0, type: res.headers['content-type'] ?? '', text }));
      },
    );
    req.on('error', reject);
    req.end(body);
  });

test(`${REQUESTS} requests of strangers and broken clients (seed ${SEED})`, { timeout: 240_000 }, async () => {
  const before = process.memoryUsage().rss;
  const wrong: string[] = [];
  const statuses = new Map<number, number>();
  const next = async () => {
    for (let asked = left--; asked > 0; asked = left--) {
      const a = chance.is(0.5) ? reader() : shop();
      const got = await ask(a);
      statuses.set(got.status, (statuses.get(got.status) ?? 0) + 1);
      const said = `${a.method} ${a.path.slice(0, 120)} ${JSON.stringify(a.headers)} ${a.body?.toString('latin1').slice(0, 300) ?? ''}: ${got.status} ${got.text.slice(0, 120)}`;
      if (got.status >= 500) wrong.push(said);
      if (a.page && got.type.includes('json')) wrong.push(`JSON to a reader: ${said}`);
    }
  };
  let left = REQUESTS;
  await Promise.all(Array.from({ length: 8 }, next));
  console.log(`seed ${SEED}: ${JSON.stringify(Object.fromEntries([...statuses].sort(([x], [y]) => x - y)))}`);
  expect(wrong.slice(0, 5)).toEqual([]);
  // It must have got through to what it attacks.
  for (const status of [200, 202, 302, 404, 422]) expect(statuses.get(status) ?? 0).toBeGreaterThan(10);
  expect((process.memoryUsage().rss - before) / 1e6).toBeLessThan(400);
});
