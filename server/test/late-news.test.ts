import { sql } from 'drizzle-orm';
import request from 'supertest';
import { expect, test, describe } from 'vitest';
import type { Sequence, Step } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { cloudEvent, emailStep, testId, useWorld, waitStep } from './support/world.ts';

// When it happened counts, not when we heard: docs/decisions/012. What must come out is written from the need.
const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const world = useWorld();
let n = 0;

/** A cart sequence of its own: an email an hour after the checkout began, left by paying. */
async function cart(more: Partial<Sequence> = {}, steps?: Step[]) {
  const name = `cart${++n}`;
  const [begun, paid] = [`${name}.begun`, `${name}.paid`];
  await world.connection.db.execute(
    sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${world.ws}, ${begun}, ${begun}, '[{"name":"number","type":"text"}]', '{"number":"7"}', true)`,
  );
  await world.live({
    name,
    list: null,
    triggers: [{ kind: 'event', event: begun, where: [] }],
    goal: { kind: 'event', event: paid, done: true, since: { kind: 'entry' }, where: [] },
    entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
    steps: steps ?? [waitStep(1, 'hours'), emailStep(`Your ${name}`)],
    ...more,
  });
  const who = `${name}@readers.example`;
  const event = (type: string, time: number, data: Record<string, unknown> = {}) =>
    cloudEvent({ type, subject: who, time, data });
  const mail = () =>
    world
      .mail()
      .filter((m) => m.to === who)
      .map((m) => m.subject);
  return { begun, paid, who, event, mail };
}

const post = (events: object[]) =>
  request(world.app)
    .post('/intake/events')
    .set('Authorization', `Bearer ${world.key}`)
    .set('Content-Type', 'application/cloudevents-batch+json')
    .send(JSON.stringify(events))
    .expect(202);

describe('"began an order" of 10:00 and "paid" of 10:03, told at 10:05 or later: no cart email', () => {
  const ways: [string, (a: object, b: object, at: number) => Promise<void>][] = [
    ['in one batch', async (begun, paid) => void (await post([begun, paid]))],
    ['in one batch, the other way round', async (begun, paid) => void (await post([paid, begun]))],
    [
      'in two batches',
      async (begun, paid) => {
        await post([begun]);
        await post([paid]);
      },
    ],
    [
      'in two batches, paid first',
      async (begun, paid) => {
        await post([paid]);
        await post([begun]);
      },
    ],
    [
      'paid first, the checkout twenty hours later',
      async (begun, paid, at) => {
        await post([paid]);
        await world.ahead(at + 20 * HOUR);
        await post([begun]);
      },
    ],
    [
      'both twenty-three hours late',
      async (begun, paid, at) => {
        await world.ahead(at + 23 * HOUR - 10 * MINUTE);
        await post([paid]);
        await post([begun]);
      },
    ],
  ];
  test.each(ways)('%s', async (_name, tell) => {
    const c = await cart();
    const at = await world.now();
    await tell(c.event(c.begun, at - 5 * MINUTE), c.event(c.paid, at - 2 * MINUTE), at);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(c.mail()).toEqual([]);
  });
});

test('a visit enters at the moment of its event: the hour counts from the checkout, not from when it was told', async () => {
  const c = await cart();
  const at = await world.now();
  await post([c.event(c.begun, at - 40 * MINUTE)]);
  await world.ahead(at + DAY);
  expect(world.mail().filter((m) => m.to === c.who)).toEqual([expect.objectContaining({ at: at + 20 * MINUTE })]);
});

test('a cart that was told late never takes the place of a newer one', async () => {
  const c = await cart({}, [
    waitStep(1, 'hours'),
    emailStep('Cart', { subject: 'Cart {{ event.number | default: "none" }}' }),
  ]);
  const at = await world.now();
  await post([c.event(c.begun, at - 4 * MINUTE, { number: 'first' })]);
  await post([c.event(c.begun, at - MINUTE, { number: 'newest' })]);
  await post([c.event(c.begun, at - 2 * MINUTE, { number: 'told late' })]);
  await world.ahead(at + DAY);
  expect(c.mail()).toEqual(['Cart newest']);
});

test('an old checkout, told after a newer one has been lived through, begins nothing', async () => {
  const c = await cart();
  const at = await world.now();
  await post([c.event(c.begun, at)]);
  await world.ahead(at + 2 * HOUR);
  await post([c.event(c.begun, at - HOUR), c.event(c.begun, at + 30 * MINUTE)]);
  await world.ahead(at + DAY);
  expect(c.mail()).toHaveLength(1);
});

test('a checkout begun after the last one was paid is a story of its own, in one batch too', async () => {
  const c = await cart();
  const at = await world.now();
  await post([
    c.event(c.begun, at - 5 * MINUTE),
    c.event(c.paid, at - 4 * MINUTE),
    c.event(c.begun, at - 3 * MINUTE, { number: 'second' }),
  ]);
  await world.ahead(at + DAY);
  expect(world.mail().filter((m) => m.to === c.who)).toEqual([expect.objectContaining({ at: at - 3 * MINUTE + HOUR })]);
});

describe('two carts, the first one paid between them, in whatever order they are told: one email, about the second', () => {
  const orders = [
    ['one', 'two', 'paid'],
    ['one', 'paid', 'two'],
    ['two', 'one', 'paid'],
    ['two', 'paid', 'one'],
    ['paid', 'one', 'two'],
    ['paid', 'two', 'one'],
  ] as const;
  test.each(orders)('%s, %s, %s', async (...order) => {
    const c = await cart({}, [waitStep(1, 'hours'), emailStep('Your {{ event.number }}')]);
    const now = await world.now();
    await world.ahead(now + 40 * MINUTE);
    const happened = {
      one: c.event(c.begun, now, { number: 'first cart' }),
      paid: c.event(c.paid, now + 10 * MINUTE, {}),
      two: c.event(c.begun, now + 20 * MINUTE, { number: 'second cart' }),
    };
    for (const what of order) {
      await post([happened[what]]);
      // The engine looks after each.
      await world.ahead(await world.now());
    }
    await world.ahead(now + 79 * MINUTE);
    expect(c.mail()).toEqual([]);
    await world.ahead(now + 3 * DAY);
    expect(c.mail()).toEqual(['Your second cart']);
    expect(world.mail().find((m) => m.to === c.who)?.at).toBe(now + 80 * MINUTE);
  });

  test('told after the one email has gone, which spoke of the second: no other one about it', async () => {
    const c = await cart({}, [waitStep(1, 'hours'), emailStep('Your {{ event.number }}')]);
    const now = await world.now();
    await post([c.event(c.begun, now, { number: 'first cart' })]);
    await world.ahead(now + 20 * MINUTE);
    await post([c.event(c.begun, now + 20 * MINUTE, { number: 'second cart' })]);
    await world.ahead(now + 2 * HOUR);
    await post([c.event(c.paid, now + 10 * MINUTE, {})]);
    await world.ahead(now + 3 * DAY);
    expect(c.mail()).toEqual(['Your second cart']);
  });
});

test('paid in the very second in which the checkout began is paid', async () => {
  const c = await cart();
  const at = await world.now();
  await post([c.event(c.begun, at - MINUTE), c.event(c.paid, at - MINUTE)]);
  await world.ahead(at + DAY);
  expect(c.mail()).toEqual([]);
});

describe('a sender whose clock runs five minutes ahead delays nothing', () => {
  test('the goal is reached in the round after receipt', async () => {
    const c = await cart();
    const at = await world.now();
    await post([c.event(c.begun, at + 4 * MINUTE)]);
    await world.ahead(at);
    await post([c.event(c.paid, at + 5 * MINUTE)]);
    await advanceRound(world.connection, at);
    const visit = await firstRow(
      world.connection.db,
      sql`select v.status from visits v join people p on p.id = v.person_id where p.email = ${c.who}`,
    );
    expect(visit).toEqual({ status: 'done' });
  });

  test('and so is an answer that is waited for', async () => {
    const seen = `lesson${++n}.opened`;
    const until: Step = {
      id: testId(),
      on: true,
      note: '',
      kind: 'until',
      name: '',
      condition: { kind: 'event', event: seen, done: true, since: { kind: 'entry' }, where: [] },
      amount: 3,
      unit: 'days',
      arms: [
        { id: testId(), steps: [emailStep('Opened')] },
        { id: testId(), steps: [] },
      ],
    };
    const c = await cart({}, [until]);
    const at = await world.now();
    await post([c.event(c.begun, at)]);
    await world.ahead(at);
    await post([cloudEvent({ type: seen, subject: c.who, time: at + 5 * MINUTE })]);
    await advanceRound(world.connection, at);
    await sendRound(world.connection, world.sending, at);
    expect(c.mail()).toEqual(['Opened']);
  });
});

test('waited until 9:00, bought at 9:30, looked at 9:50: nothing goes out; who did not buy waits on from 9:00', async () => {
  const both = await Promise.all(
    [0, 1].map(() => cart({}, [waitStep(1, 'hours'), emailStep('A'), waitStep(1), emailStep('B')])),
  );
  const at = await world.now();
  for (const c of both) await post([c.event(c.begun, at)]);
  await world.ahead(at);
  const nine = at + HOUR;
  await world.stand(nine + 30 * MINUTE);
  await post([both[0]!.event(both[0]!.paid, nine + 30 * MINUTE)]);
  await world.stand(nine + 50 * MINUTE);
  await world.ahead(nine + 3 * DAY);
  expect(both[0]!.mail()).toEqual([]);
  expect(world.mail().filter((m) => m.to === both[1]!.who)).toEqual([
    expect.objectContaining({ subject: 'A', at: nine }),
    expect.objectContaining({ subject: 'B', at: nine + DAY }),
  ]);
});

describe('a kind that was learned from samples refuses nothing', () => {
  const samples: [string, unknown, unknown, string][] = [
    ['a nested object after a text', 'Lisbon', { city: 'Lisbon' }, 'text'],
    ['a number that becomes text', 12, 'twelve', 'text'],
    ['null first, a number then', null, 12, 'number'],
    ['a list that becomes a text', ['a'], 'a', 'text'],
    ['a date that becomes something else', '2026-03-06', 'soon', 'text'],
  ];
  test.each(samples)('%s', async (_name, first, then, type) => {
    const kind = `sample${++n}.seen`;
    const send = (value: unknown) => cloudEvent({ type: kind, subject: 'marta@readers.example', data: { value } });
    await post([send(first), send(then), send(first)]);
    const row = await firstRow<{ fields: { name: string; type: string }[]; learned: boolean }>(
      world.connection.db,
      sql`select fields, learned from event_kinds where workspace_id = ${world.ws} and name = ${kind}`,
    );
    expect(row).toEqual({ fields: [{ name: 'value', type }], learned: true });
    expect(await rows(world.connection.db, sql`select 1 from events where name = ${kind}`)).toHaveLength(3);
  });
});
