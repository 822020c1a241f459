import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { newId } from '../src/app/ids.ts';
import { rows } from '../src/db/rows.ts';
import { recordClick, recordOpen } from '../src/people/readings.ts';
import { branchStep, actionStep, emailStep, owner, useWorld, waitStep } from './support/world.ts';

// What people earn is told by the need: an opening once for each email, a click on top of it, each order.
const world = useWorld();
let ines: ReturnType<typeof agent>;
let file: string;
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const events = { 'order.paid': 50, 'file.downloaded': 5, 'cart.left': -3 };
  await ines.put('/api/points').send({ opened: 10, clicked: 20, events }).expect(200);
  await world.live({ name: 'Letters', steps: [emailStep('One'), waitStep(1), emailStep('Two')] });
  file = newId();
});

const points = async (email: string) => (await world.person(email))?.points;
const sendsOf = (email: string) =>
  rows<{ id: string }>(
    world.connection.db,
    sql`select s.id from sends s join people p on p.id = s.person_id where p.email = ${email} order by s.due_at`,
  );
const link = { number: 0, repeat: null, item: null } as never;
async function reader(email: string) {
  await world.join(email);
  await world.ahead((await world.now()) + 2 * 86_400_000);
  const [one, two] = (await sendsOf(email)).map((s) => ({ workspaceId: world.ws, sendId: s.id }));
  if (!one || !two) throw new Error('Two emails went out.');
  return { one, two };
}
const open = async (key: Parameters<typeof recordOpen>[1], ahead = false) =>
  recordOpen(world.connection.db, key, await world.now(), ahead);
const click = async (key: Parameters<typeof recordClick>[1], target = 'https://foldwell.example', ahead = false) =>
  recordClick(world.connection.db, key, link, target, await world.now(), ahead);

test('one known scoring, 10 and 20: an opening once for each email, a click on top of it, nothing for mail programs', async () => {
  const { one, two } = await reader('ana@x.example');
  await open(one, true);
  await click(one, undefined, true);
  expect(await points('ana@x.example')).toBe(0);
  await Promise.all([open(one), open(one), open(one)]);
  expect(await points('ana@x.example')).toBe(10);
  await Promise.all([click(one), click(one)]);
  expect(await points('ana@x.example')).toBe(30);
  // A click is an opening: both are earned, once.
  await click(two);
  await open(two);
  expect(await points('ana@x.example')).toBe(60);
});

test('each order earns, an event told twice once; a file once, however often it is fetched', async () => {
  const { one, two } = await reader('bo@x.example');
  const order = { type: 'order.paid', subject: 'bo@x.example', id: 'order-1' };
  await world.event(order).expect(202);
  await world.event(order).expect(202);
  await world.event({ ...order, id: 'order-2' }).expect(202);
  await world.event({ type: 'cart.left', subject: 'bo@x.example' }).expect(202);
  await world.event({ type: 'else.happened', subject: 'bo@x.example' }).expect(202);
  expect(await points('bo@x.example')).toBe(97);
  await click(one, `file:${file}`);
  await click(one, `file:${file}`);
  await click(two, `file:${file}`);
  expect(await points('bo@x.example')).toBe(97 + 30 + 30 + 5);
});

test('what a reader has earned is seen by a branch behind it', async () => {
  await world.live({
    name: 'Keen',
    triggers: [{ kind: 'tag', tag: 'asked', what: 'added' }],
    steps: [
      emailStep('Hello'),
      branchStep(
        [{ kind: 'points', op: 'over', value: 25 }, [actionStep({ type: 'add-tag', tag: 'keen' })]],
        [null, [actionStep({ type: 'add-tag', tag: 'shy' })]],
      ),
    ],
  });
  for (const [email, clicks] of [
    ['keen@x.example', true],
    ['shy@x.example', false],
  ] as const) {
    const { one } = await reader(email);
    await open(one);
    if (clicks) await click(one);
    await ines
      .patch(`/api/people/${(await world.person(email))?.id}`)
      .send({ addTag: 'asked' })
      .expect(200);
  }
  await world.ahead((await world.now()) + 60_000);
  expect((await world.person('keen@x.example'))?.tags).toContain('keen');
  expect((await world.person('shy@x.example'))?.tags).toContain('shy');
});

test('what is no number of points is refused, and changes nothing', async () => {
  const bad = await ines.put('/api/points').send({ opened: 1.5, clicked: 20, events: {} }).expect(422);
  expect(bad.text).toContain('Whole points');
  await ines
    .put('/api/points')
    .send({ opened: 1, clicked: 20, events: { a: 5000 } })
    .expect(422);
  expect((await ines.get('/api/points').expect(200)).body).toMatchObject({ opened: 10, clicked: 20 });
});
