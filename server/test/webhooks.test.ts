import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { intakeDocument } from '@ascenso/contracts';
import type { Step } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { noticeRound, noticesHandedOver } from '../src/engine/notices.ts';
import { retryAfter } from '../src/mail/webhook.ts';
import { until } from './support/killing.ts';
import { emailStep, useWorld } from './support/world.ts';

// Other machines that are called: one that is slow, one that asks for a pause, and what each gets.
const world = useWorld();
interface Call {
  at: string;
  body: string;
  agent: string | undefined;
}
const calls: Call[] = [];
let servers: http.Server[] = [];
const hold: (() => void)[] = [];
/** How each server answers: by its place. */
const answers: ((res: http.ServerResponse) => void)[] = [
  (res) => void hold.push(() => res.writeHead(204).end()),
  (res) => res.writeHead(204).end(),
  (res) => res.writeHead(503, { 'Retry-After': '7200' }).end(),
];
const addressOf = (n: number) => `http://127.0.0.1:${(servers[n]?.address() as AddressInfo).port}`;

beforeAll(async () => {
  servers = answers.map((answer, n) =>
    http.createServer((req, res) => {
      let body = '';
      req.on('data', (d) => (body += String(d)));
      req.on('end', () => {
        calls.push({ at: String(n), body, agent: req.headers['user-agent'] });
        answer(res);
      });
    }),
  );
  for (const server of servers) await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const hosts = servers.map((_, n) => addressOf(n).slice(7));
  world.sending = { ...world.sending, allowedHosts: [...world.sending.allowedHosts, ...hosts] };
});
afterAll(async () => {
  for (const go of hold) go();
  await noticesHandedOver(world.connection, 10_000);
  for (const server of servers) {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  }
});

let sequences = 0;
/** People who come to a step that calls one of the servers. */
async function comeTo(n: number, people: number): Promise<void> {
  const event = `called.${n}.${sequences++}`;
  const step: Step = {
    id: `call-${event}`,
    kind: 'action',
    on: true,
    note: '',
    action: { type: 'call-webhook', url: `${addressOf(n)}/hook` },
  };
  await world.live({
    name: event,
    triggers: [{ kind: 'event', event, where: [] }],
    steps: [step, emailStep(`After ${event}`)],
  });
  for (let i = 0; i < people; i++) {
    await world.join(`p${i}@readers.example`);
    await world.event({ type: event, subject: `p${i}@readers.example`, data: { total: 38 } }).expect(202);
  }
}
const to = (n: number) => calls.filter((c) => c.at === String(n));

test('one receiver that does not answer stalls nobody else, and is asked no more than four at once', async () => {
  await comeTo(0, 30);
  await comeTo(1, 10);
  const { advanceRound } = await import('../src/engine/advance-loop.ts');
  const now = await world.now();
  await until('all have come to their step', async () => (await advanceRound(world.connection, now)) === 0);
  // Rounds as the loop runs them: the slow one's notices are due first.
  await until(
    'the other has all of its own',
    async () => {
      await noticeRound(world.connection, world.sending, now);
      return to(1).length === 10;
    },
    30_000,
  );
  expect(to(0)).toHaveLength(4);
  const release = async () => {
    for (const go of hold.splice(0)) go();
    await noticeRound(world.connection, world.sending, now);
    return to(0).length === 30;
  };
  await until('it answers at last', release, 30_000);
  hold.splice(0).forEach((go) => go());
  await noticesHandedOver(world.connection, 10_000);
  // Each was called once.
  expect(new Set(calls.map((c) => c.body)).size).toBe(40);
});

test('a receiver that asks for a pause has it', async () => {
  await comeTo(2, 1);
  const begun = await world.now();
  await world.ahead(begun + 1_000);
  expect(to(2)).toHaveLength(1);
  // Its own next try would have been a minute later.
  await world.ahead(begun + 119 * 60_000);
  expect(to(2)).toHaveLength(1);
  await world.ahead(begun + 122 * 60_000);
  expect(to(2)).toHaveLength(2);
});

describe('Retry-After', () => {
  const NOW = Date.UTC(2026, 2, 6, 12);
  test.each([
    ['120', 120_000],
    ['Fri, 06 Mar 2026 12:05:00 GMT', 300_000],
    ['Fri, 06 Mar 2026 11:00:00 GMT', undefined],
    ['soon', undefined],
    [undefined, undefined],
  ])('%s', (value, ms) => expect(retryAfter(value, NOW)).toBe(ms));
});

test('what is sent is what the document says, and says who sends it', async () => {
  const document = intakeDocument('https://x.example') as {
    webhooks: Record<
      string,
      { post: { requestBody: { content: { 'application/json': { schema: object; example: object } } } } }
    >;
    components: object;
  };
  const ajv = new Ajv2020({ strict: false, validateFormats: false });
  const told = (name: string) => document.webhooks[name]?.post.requestBody.content['application/json'];
  const schemaOf = (name: string) => ajv.compile({ ...told(name)?.schema, components: document.components });
  for (const name of Object.keys(document.webhooks)) expect(schemaOf(name)(told(name)?.example)).toBe(true);
  const valid = schemaOf('sequence.step');
  for (const call of calls)
    expect([call.agent, valid(JSON.parse(call.body))]).toEqual(['Ascenso-Webhooks/1 (Standard Webhooks)', true]);
  expect(valid({ ...(told('sequence.step')?.example as object), data: {} })).toBe(false);
  expect(await rows(world.connection.db, sql`select 1 from set_aside`)).toEqual([]);
});
