import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { CountAnswer, SegmentCount } from '@ascenso/contracts';
import { DAY, type Condition } from '@ascenso/core';
import { countMatching, estimateMatching } from '../src/db/conditions.ts';
import { FRIDAY_NOON, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: ReturnType<typeof agent>;
const keen: Condition = { kind: 'tag', tag: 'keen', has: true };
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const segments = async () => (await ines.get('/api/segments').expect(200)).body.segments as SegmentCount[];
const join = async (email: string, tags: string[]) => {
  await world.join(email);
  await world.connection.db.execute(sql`update people set tags = ${sql.param(tags)}::text[] where email = ${email}`);
};

test('a segment is counted at each midnight of the workspace; another rule begins anew, another name or folder does not', async () => {
  const { id } = (await ines.post('/api/segments').send({ name: 'Keen', rule: keen, folder: 'Spring' }).expect(200))
    .body as { id: string };
  await join('one@x.example', ['keen']);
  await world.ahead(FRIDAY_NOON + 1);
  await join('two@x.example', ['keen']);
  await join('other@x.example', ['shy']);
  await world.ahead(FRIDAY_NOON + DAY);
  await join('three@x.example', ['keen']);
  await world.ahead(FRIDAY_NOON + 2 * DAY);
  const day = Math.floor(FRIDAY_NOON / DAY);
  const [s] = await segments();
  expect(s).toMatchObject({ folder: 'Spring', count: 3, countedAt: null });
  // Friday when it was first looked at, then Saturday's and Sunday's midnights in Lisbon.
  expect(s?.sizes).toEqual([
    { day, people: 1 },
    { day: day + 1, people: 2 },
    { day: day + 2, people: 3 },
  ]);
  await ines.put(`/api/segments/${id}`).send({ name: 'Keen ones', rule: keen, folder: '' }).expect(200);
  expect((await segments())[0]?.sizes).toHaveLength(3);
  const shy = { kind: 'tag', tag: 'shy', has: true };
  await ines.put(`/api/segments/${id}`).send({ name: 'Keen ones', rule: shy, folder: '' }).expect(200);
  await world.ahead(FRIDAY_NOON + 2 * DAY + 60_000);
  expect((await segments())[0]?.sizes).toEqual([{ day: day + 2, people: 1 }]);
});

test('few people are counted; of many a share is looked at, near the count, and said to be an estimate', async () => {
  const { db } = world.connection;
  expect(await estimateMatching(db, world.ws, keen, FRIDAY_NOON)).toBeNull();
  await db.execute(sql`
    insert into people (workspace_id, id, email, attributes, tags, created_at)
    select ${world.ws}, gen_random_uuid(), 'many' || i || '@x.example', '{}', case when i % 5 = 0 then array['keen'] else '{}' end, 0 from generate_series(1, 60000) i`);
  await db.execute(sql`analyze people`);
  const exact = await countMatching(db, world.ws, keen, FRIDAY_NOON);
  const about = (await estimateMatching(db, world.ws, keen, FRIDAY_NOON)) ?? 0;
  // A tenth of the pages: six standard errors of 1,200 in 6,000, with room for how pages are filled.
  expect(Math.abs(about / exact - 1)).toBeLessThan(0.25);
  const ask = async (quick: boolean) =>
    (await ines.post('/api/conditions/count').send({ condition: keen, quick }).expect(200)).body as CountAnswer;
  expect(await ask(false)).toEqual({ matches: exact, total: 60004, about: false });
  expect(await ask(true)).toMatchObject({ total: 60004, about: true });
  // The list of segments does not wait for them all: it says of when its figures are.
  expect((await segments())[0]?.countedAt).toBeLessThan(FRIDAY_NOON + 3 * DAY);
});
