import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { andChosen, chosen, oneIn } from '../src/jobs/sampling.ts';
import { useWorld } from './support/world.ts';

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
