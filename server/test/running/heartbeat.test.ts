import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { expect, test } from 'vitest';
import { startLoops } from '../../src/engine/loops.ts';
import { until } from '../support/killing.ts';
import { owner, useWorld } from '../support/world.ts';

const world = useWorld();

test('an engine that is away is told on every screen, and no longer once it is back', async () => {
  const own = agent(world.app);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const away = async () => (await own.get('/api/outside/clock').expect(200)).body.engineAway as number | null;
  // None has ever been: the installation is being made.
  expect(await away()).toBeNull();
  await world.connection.db.execute(sql`update installation set engine_seen_at = ${Date.now() - 180_000}`);
  expect(await away()).toBeGreaterThanOrEqual(180_000);
  const stop = startLoops(world.connection, world.sending, () => undefined);
  await until('it is seen again', async () => (await away()) === null, 10_000);
  await stop();
});
