import { sql } from 'drizzle-orm';
import { expect, test } from 'vitest';
import type { Sequence } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { sequenceNumbers } from '../src/db/numbers.ts';
import { emailStep, useWorld } from './support/world.ts';

const world = useWorld();

test('an email that the draft no longer has is counted still, under the name it went out by', async () => {
  const { db } = world.connection;
  const [kept, gone] = [emailStep('Welcome'), emailStep('Postscript')];
  gone.email.mode = 'text';
  const id = await world.live({ steps: [kept, gone] });
  for (const name of ['marta', 'jonas', 'zoe']) await world.join(`${name}@readers.example`);
  await world.ahead(await world.now());
  const before = await sequenceNumbers(db, world.ws, id, null);
  expect(before.gone).toEqual([]);
  const { draft } = (await firstRow<{ draft: Sequence }>(db, sql`select draft from sequences where id = ${id}`)) ?? {};
  await db.execute(
    sql`update sequences set draft = ${JSON.stringify({ ...draft, steps: [{ ...kept, name: 'Renamed' }] })}::jsonb where id = ${id}`,
  );
  const after = await sequenceNumbers(db, world.ws, id, null);
  expect(after.gone).toEqual([{ step: gone.id, name: 'Postscript', unseen: { openings: true, clicks: false } }]);
  expect(after.steps[gone.id]?.sent).toBe(3);
  expect(after.steps).toEqual(before.steps);
});

test('each email is counted once, however often it is opened: whoever came twice got two', async () => {
  const { db } = world.connection;
  const letter = emailStep('Letter');
  const id = await world.live({
    triggers: [{ kind: 'event', event: 'repair.finished', where: [] }],
    list: null,
    entry: { again: 'after-leaving', days: 0, key: '', holdout: 0 },
    steps: [letter],
  });
  const finished = async (to: string) => {
    await world.event({ type: 'repair.finished', subject: to, time: await world.now() }).expect(202);
    await world.ahead((await world.now()) + 60_000);
  };
  for (const to of ['twice@readers.example', 'once@readers.example', 'twice@readers.example']) await finished(to);
  const passages = await rows<{ n: number }>(db, sql`select count(*) as n from sends where sequence_id = ${id}`);
  expect(passages[0]?.n).toBe(3);
  // The second of the two letters is opened, the first is not.
  await db.execute(
    sql`update sends set opened_at = 1 where id = (select s.id from sends s join people p on p.id = s.person_id where s.sequence_id = ${id} and p.email = 'twice@readers.example' order by s.due_at desc limit 1)`,
  );
  const { joined, finished: through, steps } = await sequenceNumbers(db, world.ws, id, null);
  expect([joined, through]).toEqual([3, 3]);
  expect(steps[letter.id]).toMatchObject({ sent: 3, delivered: 3, opened: 1 });
});
