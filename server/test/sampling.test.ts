import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { DAY } from '@ascenso/core';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { forecast } from '../src/jobs/forecast.ts';
import { andChosen, chosen, oneIn } from '../src/jobs/sampling.ts';
import { emailStep, FRIDAY_NOON, useWorld } from './support/world.ts';

const world = useWorld();

test('everybody is led on while they can be; of more, a power of two, so that the fewer are among the more', () => {
  expect([0, 1, 700].map(oneIn)).toEqual([1, 1, 1]);
  expect([701, 1401, 520_000].map(oneIn)).toEqual([2, 4, 1024]);
  const ids = Array.from({ length: 4_000 }, newId);
  const few = ids.filter((id) => chosen(id, 16));
  expect(few.every((id) => chosen(id, 4))).toBe(true);
  expect(ids.filter((id) => chosen(id, 1))).toHaveLength(ids.length);
  // 250 of 4,000 are expected, with a standard deviation of 15.3 (binomial); six of them either way.
  expect(Math.abs(few.length - 250)).toBeLessThan(92);
});

test('the database draws the same lots', async () => {
  const ids = Array.from({ length: 3_000 }, newId);
  for (const n of [1, 2, 64, 1024]) {
    const found = await rows<{ id: string }>(
      world.connection.db,
      sql`select i.id from unnest(${sql.param(ids)}::uuid[]) as i(id) where true ${andChosen(sql`i.id`, n)}`,
    );
    expect(found.map((f) => f.id)).toEqual(ids.filter((id) => chosen(id, n)));
  }
});

test('a forecast of more people than are led on one by one is about as many emails, and says that it is a part', async () => {
  const { connection, ws } = world;
  const step = emailStep('Tomorrow');
  const sequence = await world.live({ list: null, triggers: [{ kind: 'hand' }], steps: [step] });
  const ids = Array.from({ length: 2_400 }, newId);
  const due = FRIDAY_NOON + DAY;
  await connection.db.execute(
    sql`insert into people (workspace_id, id, email, attributes, created_at)
        select ${ws}, i.id, i.id || '@readers.example', '{}', ${FRIDAY_NOON} from unnest(${sql.param(ids)}::uuid[]) as i(id)`,
  );
  await connection.db.execute(
    sql`insert into visits (workspace_id, id, sequence_id, version, person_id, cause_id, status, step, entered_at, arrived_at, due_at, wake_at, held, step_times, entry, entry_at)
        select ${ws}, i.id, ${sequence}, 1, i.id, 'test', 'active', ${step.id}, ${FRIDAY_NOON}, ${FRIDAY_NOON}, ${due}, ${due}, false, '{}', '{}', ${FRIDAY_NOON}
        from unnest(${sql.param(ids)}::uuid[]) as i(id)`,
  );
  const ahead = await forecast(connection.db, ws, 'Europe/Lisbon', FRIDAY_NOON);
  const [today, tomorrow = 0] = ahead.sequences.find((s) => s.id === sequence)?.inside ?? [];
  expect(ahead.oneIn).toBe(4);
  expect(today).toBe(0);
  // 600 are led on, give or take 21 (binomial); six of them either way, each standing for four.
  expect(Math.abs(tomorrow - 2_400)).toBeLessThan(4 * 6 * 22);
});
