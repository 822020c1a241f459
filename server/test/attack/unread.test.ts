import request from 'supertest';
import { expect, test } from 'vitest';
import { owner, useWorld } from '../support/world.ts';

// A stranger makes us read nothing: who asks is known before a body is.
const world = useWorld();

test('without a session a body is refused before it is read, well formed or not; a sign-in is small', async () => {
  for (const [body, type] of [
    ['{', 'application/json'],
    [JSON.stringify({ name: 'x'.repeat(900_000) }), 'application/json'],
    ['['.repeat(500_000), 'application/json'],
  ] as const) {
    const answer = await request(world.app).post('/api/lists').set('Content-Type', type).send(body);
    expect(answer.status).toBe(401);
  }
  const long = JSON.stringify({ email: owner.email, password: 'x'.repeat(20_000) });
  await request(world.app).post('/api/session').set('Content-Type', 'application/json').send(long).expect(413);
  const as = request.agent(world.app);
  await as.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await as.post('/api/lists').set('Content-Type', 'application/json').send('{').expect(400);
});
