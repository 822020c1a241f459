import { sql } from 'drizzle-orm';
import { HOUR } from '@ascenso/core';
import { expect, test } from 'vitest';
import { clockState } from '../src/app/clock.ts';
import { rows } from '../src/db/rows.ts';
import { startLoops } from '../src/engine/loops.ts';
import { emailStep, waitStep } from './support/world.ts';
import { useEngine } from './support/engine.ts';

const { world, address, sequenceOf } = useEngine();
const MINUTE = 60_000;
const DAY = 24 * HOUR;

test('however many processes run, moving the clock sends the same emails at the same moments, in order', async () => {
  const s = await sequenceOf([
    emailStep('One'),
    waitStep(6, 'hours'),
    emailStep('Two'),
    waitStep(1),
    emailStep('Three'),
  ]);
  const begun = await world.now();
  const people = Array.from({ length: 40 }, () => address());
  for (const [i, who] of people.entries()) {
    await world.stand(begun + i * MINUTE);
    await s.start(who);
  }
  await world.stand(begun);
  const before = world.mail().length;
  const others = Array.from({ length: 3 }, () =>
    startLoops(world.connection, world.sending, (e) => {
      throw e as Error;
    }),
  );
  try {
    await world.ahead(begun + 3 * DAY);
  } finally {
    await Promise.all(others.map((stop) => stop()));
  }
  const mail = world.mail().slice(before);
  expect(mail).toHaveLength(120);
  for (const [i, who] of people.entries()) {
    const own = mail.filter((m) => m.to === who);
    const entered = begun + i * MINUTE;
    expect(own.map((m) => [m.subject, m.at])).toEqual([
      ['One', entered],
      ['Two', entered + 6 * HOUR],
      ['Three', entered + 6 * HOUR + DAY],
    ]);
  }
  // In order: nothing due later was handed over before something due earlier.
  expect(mail.map((m) => m.at)).toEqual(mail.map((m) => m.at).sort((a, b) => a - b));
  const doubled = await rows(
    world.connection.db,
    sql`select visit_id, step from sends where visit_id is not null group by 1, 2 having count(*) > 1`,
  );
  expect(doubled).toEqual([]);
});

test('a clock cannot be moved twice at once, and a real one not at all', async () => {
  const now = await world.now();
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  let arrived = () => {};
  const moving = new Promise<void>((resolve) => (arrived = resolve));
  const first = world.ahead(now + DAY, {
    act: async () => {
      arrived();
      await held;
      return { acted: 0, nextAt: null };
    },
  });
  await moving;
  expect((await clockState(world.connection.db)).moving).toBe(true);
  await expect(world.ahead(now + DAY)).rejects.toThrow('already being moved');
  release();
  await first;
  expect(await clockState(world.connection.db)).toMatchObject({ moving: false, now: now + DAY });
  await world.connection.db.execute(sql`update installation set practice = false`);
  await expect(world.ahead(now + 2 * DAY)).rejects.toThrow('real clock');
  await world.connection.db.execute(sql`update installation set practice = true`);
});
