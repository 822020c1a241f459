import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { clockState, runFrom } from '../src/app/clock.ts';
import { rows } from '../src/db/rows.ts';
import type { Crowd } from '../src/engine/mover.ts';
import { emailStep, FRIDAY_NOON, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const HOUR = 3_600_000;

/** A crowd that does nothing but fail so many times. */
const failing = (times: number): Crowd => ({
  act: () => (times-- > 0 ? Promise.reject(new Error('connection lost')) : Promise.resolve({ acted: 0, nextAt: null })),
});

test('a moment that fails is done again: the clock arrives, and each email goes once', async () => {
  await world.live({ steps: [emailStep('First'), waitStep(1, 'hours'), emailStep('Second')] });
  await world.join('ana@readers.example');
  await world.ahead(FRIDAY_NOON + 2 * HOUR, failing(3));
  expect(await world.now()).toBe(FRIDAY_NOON + 2 * HOUR);
  expect(world.mail().map((m) => m.subject)).toEqual(['First', 'Second']);
});

test('a move that cannot go on ends where it is: the clock runs on from there, and can be moved again', async () => {
  await runFrom(world.connection.db, FRIDAY_NOON + 3 * HOUR);
  await expect(world.ahead(FRIDAY_NOON + 9 * HOUR, failing(100))).rejects.toThrow('connection lost');
  const stopped = await clockState(world.connection.db);
  expect(stopped).toMatchObject({ standing: false, moving: false });
  expect(stopped.now).toBeLessThan(FRIDAY_NOON + 4 * HOUR);
  await world.ahead(FRIDAY_NOON + 9 * HOUR);
  expect(await world.now()).toBeGreaterThanOrEqual(FRIDAY_NOON + 9 * HOUR);
});

test('a connection that is cut inside a transaction fails that transaction and nothing else', async () => {
  const { db } = world.connection;
  const cut = db.transaction(async (tx) => {
    const [own] = await rows<{ pid: number }>(tx, sql`select pg_backend_pid() as pid`);
    await db.execute(sql`select pg_terminate_backend(${own?.pid})`);
    // Nothing is asked of it while it is cut: the loss comes by itself.
    await expect
      .poll(async () => (await rows(db, sql`select 1 from pg_stat_activity where pid = ${own?.pid}`)).length)
      .toBe(0);
    await tx.execute(sql`select 1`);
  });
  await expect(cut).rejects.toThrow();
  expect(await rows(db, sql`select 1 as one`)).toEqual([{ one: 1 }]);
});
