import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { blankSequence } from '@ascenso/core';
import { firstRow } from '../src/db/rows.ts';
import { transact } from '../src/db/transact.ts';
import type { Tx } from '../src/db/connect.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { wakeVisits } from '../src/people/visits.ts';
import { startLoops } from '../src/engine/loops.ts';
import { emailStep, testId, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const lock = (tx: Tx, person: string) => tx.execute(sql`select 1 from people where id = ${person} for update`);
const idOf = async (email: string) => (await world.person(email))?.id ?? '';

/** Two sides that wait until both have come so far. */
function meeting() {
  let open = () => {};
  const met = new Promise<void>((resolve) => (open = resolve));
  let here = 0;
  return () => {
    if (++here === 2) open();
    return met;
  };
}

test('a round never waits for a person that somebody holds: they are left for the next, and others go on', async () => {
  await world.live({
    steps: [
      { id: testId(), on: true, note: '', kind: 'action', action: { type: 'add-tag', tag: 'inside' } },
      waitStep(1),
      emailStep('Later'),
    ],
  });
  await world.join('held@readers.example');
  await world.join('free@readers.example');
  const held = await idOf('held@readers.example');
  const now = await world.now();
  await world.connection.db.transaction(async (tx) => {
    // As the intake does: the person first, then their visits.
    await lock(tx, held);
    expect(await advanceRound(world.connection, now)).toBe(1);
    await wakeVisits(tx, world.ws, held, now);
  });
  expect((await world.person('free@readers.example'))?.tags).toEqual(['inside']);
  expect((await world.person('held@readers.example'))?.tags).toEqual([]);
  expect(await advanceRound(world.connection, now)).toBe(1);
  expect((await world.person('held@readers.example'))?.tags).toEqual(['inside']);
});

test('the visit of somebody who was deleted ends, although there is nobody to hold', async () => {
  await world.join('gone@readers.example');
  const gone = await idOf('gone@readers.example');
  await world.connection.db.execute(sql`delete from people where id = ${gone}`);
  expect(await advanceRound(world.connection, await world.now())).toBe(1);
  expect(await firstRow(world.connection.db, sql`select status from visits where person_id = ${gone}`)).toEqual({
    status: 'done',
  });
});

test('two changes that wait for each other are both made: the one that was broken off is done again', async () => {
  await world.join('a@readers.example');
  await world.join('b@readers.example');
  const [a, b] = [await idOf('a@readers.example'), await idOf('b@readers.example')];
  const bothHoldOne = meeting();
  let tried = 0;
  const tagging = (first: string, second: string, tag: string) =>
    transact(world.connection.db, async (tx) => {
      tried++;
      await lock(tx, first);
      await bothHoldOne();
      await tx.execute(sql`update people set tags = tags || ${tag}::text where id in (${first}, ${second})`);
    });
  await Promise.all([tagging(a, b, 'one'), tagging(b, a, 'two')]);
  // Whoever was broken off can be so again: they come back before the other has woken up, and take the first person anew.
  expect(tried).toBeGreaterThan(2);
  for (const email of ['a@readers.example', 'b@readers.example'])
    expect((await world.person(email))?.tags.filter((t) => t !== 'inside').sort()).toEqual(['one', 'two']);
});

test('a shop that tells of many things at once is never turned away by engines that work on the same people', async () => {
  await world.live({
    list: null,
    triggers: [{ kind: 'event', event: 'order.paid', where: [] }],
    entry: { ...blankSequence('', null).entry, again: 'after-leaving' },
    steps: [
      { id: testId(), on: true, note: '', kind: 'action', action: { type: 'add-tag', tag: 'buyer' } },
      { id: testId(), on: true, note: '', kind: 'action', action: { type: 'add-points', points: 1 } },
      emailStep('Thanks'),
    ],
  });
  const stops = [1, 2].map(() => startLoops(world.connection, world.sending, () => undefined));
  const people = Array.from({ length: 12 }, (_, i) => `buyer${i}@readers.example`);
  const statuses = new Set<number>();
  for (let round = 0; round < 15; round++) {
    const answers = await Promise.all(people.map((subject) => world.event({ type: 'order.paid', subject })));
    for (const a of answers) statuses.add(a.status);
  }
  // Everybody went through at least once, and nobody stays inside.
  await expect
    .poll(
      async () =>
        firstRow(
          world.connection.db,
          sql`select count(*) filter (where points > 0 and 'buyer' = any (tags))::int as through,
                (select count(*)::int from visits v where v.status = 'active' and v.person_id in (select id from people where email like 'buyer%')) as inside
              from people where email like 'buyer%'`,
        ),
      { timeout: 20_000 },
    )
    .toEqual({ through: people.length, inside: 0 });
  await Promise.all(stops.map((stop) => stop()));
  expect([...statuses]).toEqual([202]);
});

test('what is wrong otherwise is told at once', async () => {
  let tried = 0;
  const wrong = transact(world.connection.db, async (tx) => {
    tried++;
    await tx.execute(sql`select 1 / 0`);
  });
  await expect(wrong).rejects.toThrow();
  expect(tried).toBe(1);
});
