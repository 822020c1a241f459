import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import type { Sequence } from '@ascenso/core';
import { firstRow } from '../src/db/rows.ts';
import { sequenceNumbers } from '../src/db/sequences.ts';
import { emailStep, useWorld } from './support/world.ts';

const world = useWorld();

test('an email that the draft no longer has is counted still, under the name it went out by', async () => {
  const { db } = world.connection;
  const [kept, gone] = [emailStep('Welcome'), emailStep('Postscript')];
  gone.email.mode = 'text';
  const id = await world.live({ steps: [kept, gone] });
  for (const name of ['marta', 'jonas', 'zoe']) await world.join(`${name}@readers.example`);
  await world.ahead(await world.now());
  const before = await sequenceNumbers(db, world.ws, id);
  expect(before.gone).toEqual([]);
  const { draft } = (await firstRow<{ draft: Sequence }>(db, sql`select draft from sequences where id = ${id}`)) ?? {};
  await db.execute(
    sql`update sequences set draft = ${JSON.stringify({ ...draft, steps: [{ ...kept, name: 'Renamed' }] })}::jsonb where id = ${id}`,
  );
  const after = await sequenceNumbers(db, world.ws, id);
  expect(after.gone).toEqual([{ step: gone.id, name: 'Postscript', textOnly: true }]);
  expect(after.steps[gone.id]?.sent).toBe(3);
  expect(after.steps).toEqual(before.steps);
});
