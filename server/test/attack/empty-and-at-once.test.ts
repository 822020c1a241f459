import { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { routeTable } from '../../src/app/routes.ts';
import { owner, useWorld } from '../support/world.ts';

const world = useWorld();
const SOME = '01a212d8-a4c0-77ac-a941-000000000000';
const own = () => agent(world.app).set('Cookie', cookie);
let cookie = '';
beforeAll(async () => {
  const signedIn = await agent(world.app).post('/api/session').send({ email: owner.email, password: owner.password });
  cookie = String(signedIn.headers['set-cookie']).split(';')[0] ?? '';
});

test('a change that changes nothing is asked about at every route that changes something', async () => {
  const patches = routeTable.filter((r) => r.method === 'patch');
  expect(patches.length).toBeGreaterThan(4);
  for (const { path } of patches) {
    const answer = await own()
      .patch(`/api${path.replaceAll(/:\w+/g, SOME)}`)
      .send({});
    expect([answer.status, path]).toEqual([422, path]);
    expect(answer.body.error.message).toMatch(/^Nothing is named that should change/);
  }
});

test.each([
  ['labels', '/api/labels', { name: 'Autumn' }],
  ['lists', '/api/lists', { name: 'Autumn' }],
  ['segments', '/api/segments', { name: 'Autumn', rule: { kind: 'tag', tag: 'x', has: true } }],
])('twenty %s of one name at once: one is made, and nineteen are told', async (_name, path, body) => {
  const all = await Promise.all(Array.from({ length: 20 }, () => own().post(path).send(body)));
  const statuses = all.map((a) => a.status);
  expect(statuses.filter((s) => s === 200)).toHaveLength(1);
  expect(statuses.filter((s) => s >= 500)).toEqual([]);
  for (const answer of all.filter((a) => a.status !== 200)) expect(answer.body.error.message).toBeTruthy();
});

test.each([[{ email: { a: 1 }, password: ['x'] }], [{ email: owner.email, password: { $ne: '' } }], [[]], ['text']])(
  'a sign-in of something else than words is refused: %j',
  async (body) => {
    const answer = await agent(world.app)
      .post('/api/session')
      .set('Content-Type', 'application/json')
      .send(JSON.stringify(body));
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.status).toBeLessThan(500);
  },
);
