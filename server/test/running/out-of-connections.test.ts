import { sql } from 'drizzle-orm';
import request from 'supertest';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { connect, type Connection } from '../../src/db/connect.ts';
import { readPrimary } from '../../src/db/reading.ts';
import { useWorld } from '../support/world.ts';

// PostgreSQL has no connection left (53300): everybody is asked to come again in a moment, at every kind of door.
const world = useWorld();
const ROLE = `crowded_${process.pid}`;
let crowded: Connection;
beforeAll(async () => {
  // A role that may have no connection at all gets the answer that a full server gives.
  await world.connection.db.execute(sql.raw(`create role ${ROLE} login password 'linen' connection limit 0`));
  const url = new URL(world.databaseUrl);
  url.username = ROLE;
  url.password = 'linen';
  crowded = connect(url.href);
});
afterAll(async () => {
  await crowded.close();
  await world.connection.db.execute(sql.raw(`drop role ${ROLE}`));
});

const SEND = Buffer.alloc(42, 1).toString('base64url');
test.each([
  ['get', '/api/sequences', 'json'],
  ['post', '/api/session', 'json'],
  ['post', '/intake/events', 'json'],
  ['post', '/intake/subscribers', 'json'],
  ['get', '/form/01a212d8-a4c0-77ac-a941-000000000000', 'page'],
  ['post', '/form/01a212d8-a4c0-77ac-a941-000000000000', 'page'],
  ['get', '/f/01a212d8-a4c0-77ac-a941-000000000000', 'page'],
] as const)('%s %s', async (method, address, kind) => {
  const app = world.serve({ connection: crowded, reading: readPrimary(crowded) });
  const answer = await request(app)
    [method](address)
    .set('Authorization', `Bearer ${world.key}`)
    .set('Cookie', 'ascenso_session=x')
    .set(
      'Content-Type',
      method === 'post' && kind === 'json' ? 'application/json' : 'application/x-www-form-urlencoded',
    )
    .send(method === 'post' ? (kind === 'json' ? '{"email":"a@b.example","password":"x"}' : 'email=a') : undefined);
  expect([answer.status, answer.headers['retry-after']]).toEqual([503, '30']);
  expect(answer.headers['content-type']).toMatch(kind === 'page' ? /^text\/html/ : /json/);
});

test('an address of an email whose signature is not ours is answered without asking the database', async () => {
  const app = world.serve({ connection: crowded, reading: readPrimary(crowded) });
  expect((await request(app).get(`/u/${SEND}`)).status).toBe(404);
});
