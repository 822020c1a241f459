import { sql } from 'drizzle-orm';
import PostalMime from 'postal-mime';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { firstRow } from '../../src/db/rows.ts';
import { emailStep, useWorld } from '../support/world.ts';

// Each address of an email opens its own door and no other: whoever has come to know one (a proxy that fetches pictures, a
// friend whom it was forwarded to without its foot, a web server that is told where a click came from) has that one.
const world = useWorld();
let html = '';
beforeAll(async () => {
  await world.live({ steps: [emailStep('Letter', { address: 'https://foldwell.example/kits' })] });
  await world.join('marta@readers.example');
  await world.ahead(await world.now());
  const [summary] = world.mailbox.store.summaries;
  html = (await PostalMime.parse(world.mailbox.store.source(summary as never).toString())).html ?? '';
});

const tokenAt = (door: string) => new RegExp(`/${door}/([\\w-]{40,80})`).exec(html)?.[1] ?? '';
const mailStatus = async () => (await world.person('marta@readers.example'))?.mail_status;
const readings = async () =>
  (await firstRow<{ n: number }>(world.connection.db, sql`select count(*)::int as n from readings`))?.n;

test('the three of an email are three', () => {
  const all = ['o', 'c', 'u'].map(tokenAt);
  expect(all.every((t) => t.length > 0)).toBe(true);
  expect(new Set(all).size).toBe(3);
});

test.each(['o', 'c'])('the token of /%s/ lets nobody leave', async (door) => {
  const token = tokenAt(door);
  await request(world.app).get(`/u/${token}`).expect(404);
  for (const way of ['', '/choose', '/why'])
    await request(world.app).post(`/u/${token}${way}`).type('form').send('List-Unsubscribe=One-Click').expect(404);
  expect(await mailStatus()).toBe('ok');
});

test('the token of the way out counts no opening and no click', async () => {
  const token = tokenAt('u');
  await request(world.app).get(`/o/${token}.gif`).expect(200);
  await request(world.app).get(`/c/${token}/0`).expect(404);
  expect(await readings()).toBe(0);
});

test('each opens its own', async () => {
  await request(world.app)
    .get(`/o/${tokenAt('o')}.gif`)
    .expect(200);
  await request(world.app)
    .get(`/c/${tokenAt('c')}/0`)
    .expect(302);
  expect(await readings()).toBe(2);
  await request(world.app)
    .post(`/u/${tokenAt('u')}`)
    .type('form')
    .send('List-Unsubscribe=One-Click')
    .expect(200);
  expect(await mailStatus()).toBe('unsubscribed');
});
