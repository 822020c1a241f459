import { sql } from 'drizzle-orm';
import { HOUR } from '@ascenso/core';
import request from 'supertest';
import { beforeEach, describe, expect, test } from 'vitest';
import { rows } from '../../src/db/rows.ts';
import { cloudEvent, emailStep, FRIDAY_NOON, useWorld, waitStep, type World } from '../support/world.ts';

const world = useWorld();
const DAY = 24 * HOUR;
const SHOP = { type: 'order.begun' };

/** Rows that an intake call could have left behind. */
async function traces(w: World) {
  const count = async (table: string) =>
    (
      await rows<{ n: number }>(
        w.connection.db,
        sql`select count(*) as n from ${sql.identifier(table)} where workspace_id = ${w.ws}`,
      )
    )[0]?.n;
  return Object.fromEntries(
    await Promise.all(
      ['people', 'events', 'event_ids', 'event_kinds', 'memberships', 'visits', 'sends'].map(async (t) => [
        t,
        await count(t),
      ]),
    ),
  ) as Record<string, number>;
}

const post = (path: string, body: string | object, type = 'application/cloudevents+json', key = world.key) =>
  request(world.app)
    .post(path)
    .set('Authorization', `Bearer ${key}`)
    .set('Content-Type', type)
    .send(typeof body === 'string' ? body : JSON.stringify(body));

describe('events that are late, repeated, changed or early', () => {
  let who = 0;
  let email = '';
  let started = '';
  beforeEach(async () => {
    email = `reader${++who}@readers.example`;
    started = `order.begun${who}`;
    await world.live({
      name: `After ${started}`,
      triggers: [{ kind: 'event', event: started, where: [] }],
      goal: { kind: 'event', event: `order.paid${who}`, done: true, since: { kind: 'entry' }, where: [] },
      steps: [emailStep(`First ${who}`), waitStep(1), emailStep(`Second ${who}`)],
    });
    await world.join(email);
  });
  const got = () =>
    world
      .mail()
      .filter((m) => m.to === email)
      .map((m) => m.subject);
  const now = async () => world.now();

  test('the same source and id twice counts once, also in one batch', async () => {
    const at = await now();
    const one = cloudEvent({ type: started, subject: email, time: at });
    expect((await post('/intake/events', one)).body).toMatchObject({ stored: 1, repeated: 0 });
    expect((await post('/intake/events', one)).body).toMatchObject({ stored: 0, repeated: 1 });
    const two = cloudEvent({ type: 'lesson.opened', subject: email, time: at });
    const batch = await post('/intake/events', [two, one, two], 'application/cloudevents-batch+json');
    expect(batch.body).toMatchObject({ stored: 1, repeated: 2, refused: 0 });
    await world.ahead(at + HOUR);
    expect(got()).toEqual([`First ${who}`]);
  });

  test('the same source and id with another body is refused; what else came with it is taken', async () => {
    const one = cloudEvent({ type: started, subject: email, data: { total: 20 } });
    await post('/intake/events', one).expect(202);
    const before = await traces(world);
    const changed = { ...one, data: { total: 99 } };
    await post('/intake/events', changed).expect(409);
    expect(await traces(world)).toEqual(before);
    const other = cloudEvent({ type: 'lesson.opened', subject: email });
    const answer = await post('/intake/events', [changed, other], 'application/cloudevents-batch+json').expect(207);
    expect(answer.body).toMatchObject({ stored: 1, repeated: 0, refused: 1 });
    expect(answer.body.events).toEqual([
      { id: one.id, status: 'refused', error: expect.objectContaining({ code: 'changed-event', field: 'id' }) },
      { id: other.id, status: 'stored' },
    ]);
    expect((await traces(world)).events).toBe((before.events ?? 0) + 1);
  });

  test('an event of 23 hours ago still starts its sequence; one of 25 hours ago is kept but starts nothing', async () => {
    const at = await now();
    await post('/intake/events', cloudEvent({ type: started, subject: email, time: at - 25 * HOUR })).expect(202);
    await world.ahead(at);
    expect(got()).toEqual([]);
    await post('/intake/events', cloudEvent({ type: started, subject: email, time: at - 23 * HOUR })).expect(202);
    await world.ahead(at);
    expect(got()).toEqual([`First ${who}`]);
    const kept = await rows(world.connection.db, sql`select 1 from events where name = ${started}`);
    expect(kept).toHaveLength(2);
  });

  test('an event from the future is refused; a sender’s clock four minutes ahead is forgiven', async () => {
    const at = await now();
    const answer = await post(
      '/intake/events',
      cloudEvent({ type: started, subject: email, time: at + 6 * 60_000 }),
    ).expect(422);
    expect(answer.body.field).toBe('time');
    await post('/intake/events', cloudEvent({ type: started, subject: email, time: at + 4 * 60_000 })).expect(202);
  });

  test('an order placed after entry ends the sequence; one that was placed before entry, told late, does not', async () => {
    const at = await now();
    await post('/intake/events', cloudEvent({ type: started, subject: email, time: at })).expect(202);
    await world.ahead(at + HOUR);
    await post('/intake/events', cloudEvent({ type: `order.paid${who}`, subject: email, time: at - HOUR })).expect(202);
    await world.ahead(at + DAY + HOUR);
    expect(got()).toEqual([`First ${who}`, `Second ${who}`]);
  });

  test('an order in the same moment in which the next email is due comes first: the email stays away', async () => {
    const at = await now();
    await post('/intake/events', cloudEvent({ type: started, subject: email, time: at })).expect(202);
    await world.ahead(at + DAY - 1);
    await world.stand(at + DAY);
    await post('/intake/events', cloudEvent({ type: `order.paid${who}`, subject: email, time: at + DAY })).expect(202);
    await world.ahead(at + 3 * DAY);
    expect(got()).toEqual([`First ${who}`]);
    expect((await world.trace(email)).at(-1)?.code).toBe('goal-reached');
  });
});

describe('what cannot be taken names the field and changes nothing', () => {
  const good = () => cloudEvent({ ...SHOP, subject: 'marta@readers.example' });
  const cases: [string, () => Promise<request.Response>, number, string | undefined, RegExp][] = [
    [
      'no key',
      async () => await request(world.app).post('/intake/events').send(good()),
      401,
      undefined,
      /Authorization/,
    ],
    ['a wrong key', async () => await post('/intake/events', good(), undefined, 'wrong'), 401, undefined, /key/],
    ['a body that is not JSON', async () => await post('/intake/events', '{"id": '), 400, undefined, /not valid JSON/],
    [
      'a body of another kind',
      async () => await post('/intake/events', 'a=b', 'application/x-www-form-urlencoded'),
      415,
      'Content-Type',
      /application\/cloudevents\+json/,
    ],
    [
      'a body of 10 MB',
      async () => await post('/intake/events', { ...good(), data: { x: 'x'.repeat(10_000_000) } }),
      413,
      undefined,
      /1 MB/,
    ],
    [
      'a body of 10 MB with a wrong key',
      async () => await post('/intake/events', { ...good(), data: { x: 'x'.repeat(10_000_000) } }, undefined, 'wrong'),
      401,
      undefined,
      /key/,
    ],
    [
      'another version of CloudEvents',
      async () => await post('/intake/events', { ...good(), specversion: '0.3' }),
      422,
      'specversion',
      /1\.0/,
    ],
    ['no id', async () => await post('/intake/events', { ...good(), id: undefined }), 422, 'id', /id/],
    [
      'a subject that is no address',
      async () => await post('/intake/events', { ...good(), subject: 'Marta' }),
      422,
      'subject',
      /email address/,
    ],
    [
      'a time without a zone',
      async () => await post('/intake/events', { ...good(), time: '2026-03-06 12:00' }),
      422,
      'time',
      /RFC 3339/,
    ],
    [
      'a batch with nothing in it that can be taken',
      async () =>
        await post(
          '/intake/events',
          [
            { ...good(), subject: '' },
            { ...good(), id: '' },
          ],
          'application/cloudevents-batch+json',
        ),
      422,
      '0.subject',
      /email address/,
    ],
    [
      'an empty batch',
      async () => await post('/intake/events', [], 'application/cloudevents-batch+json'),
      422,
      undefined,
      /empty/,
    ],
    [
      'a batch of 1,001',
      async () =>
        await post('/intake/events', Array.from({ length: 1001 }, good), 'application/cloudevents-batch+json'),
      422,
      undefined,
      /1000/,
    ],
    [
      'an attribute that does not exist',
      async () =>
        await post(
          '/intake/subscribers',
          { email: 'new@readers.example', attributes: { shoe_size: 41 } },
          'application/json',
        ),
      422,
      'attributes.shoe_size',
      /no attribute/,
    ],
    [
      'a number where text is meant',
      async () =>
        await post(
          '/intake/subscribers',
          { email: 'new@readers.example', attributes: { first_name: 7 } },
          'application/json',
        ),
      422,
      'attributes.first_name',
      /text/,
    ],
    [
      'text where a number is meant',
      async () =>
        await post(
          '/intake/subscribers',
          { email: 'new@readers.example', attributes: { orders: 'two' } },
          'application/json',
        ),
      422,
      'attributes.orders',
      /number/,
    ],
    [
      'a zone that does not exist',
      async () =>
        await post('/intake/subscribers', { email: 'new@readers.example', zone: 'Lisbon' }, 'application/json'),
      422,
      'zone',
      /Europe\/Lisbon/,
    ],
    [
      'a list that does not exist',
      async () =>
        await post(
          '/intake/subscribers',
          { email: 'new@readers.example', lists: ['Workshop letters', 'Nowhere'] },
          'application/json',
        ),
      422,
      'lists.1',
      /Nowhere/,
    ],
    [
      'a field that does not exist',
      async () =>
        await post('/intake/subscribers', { email: 'new@readers.example', colour: 'red' }, 'application/json'),
      422,
      'colour',
      /colour/,
    ],
  ];
  test.each(cases)('%s', async (_name, send, status, field, message) => {
    const before = await traces(world);
    const answer = await send();
    expect(answer.status).toBe(status);
    expect(answer.body.detail).toMatch(message);
    if (field) expect(answer.body.field).toBe(field);
    expect(await traces(world)).toEqual(before);
  });

  test('a field that was declared by hand as a number is refused as text', async () => {
    await world.connection.db.execute(
      sql`insert into event_kinds (workspace_id, name, label, fields, sample, learned) values (${world.ws}, 'club.renewed', 'Club renewed', '[{"name":"months","type":"number"}]', '{"months":12}', false)`,
    );
    const first = cloudEvent({ type: 'club.renewed', subject: 'marta@readers.example', data: { months: 12 } });
    await post('/intake/events', first).expect(202);
    const before = await traces(world);
    const answer = await post('/intake/events', { ...first, id: 'next', data: { months: 'twelve' } }).expect(422);
    expect(answer.body.field).toBe('data.months');
    expect(await traces(world)).toEqual(before);
  });

  test('numbers past what a number holds, deep nesting and odd keys do no harm', async () => {
    const data = JSON.parse(
      `{"__proto__": {"polluted": true}, "n": 1e400, "deep": ${'['.repeat(200)}${']'.repeat(200)}}`,
    ) as Record<string, unknown>;
    const answer = await post('/intake/events', cloudEvent({ type: 'odd.keys', subject: 'odd@readers.example', data }));
    expect(answer.status).toBeLessThan(500);
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
    const zero = await post(
      '/intake/events',
      cloudEvent({ type: 'odd.text', subject: 'odd@readers.example', data: { note: 'a\u0000b' } }),
    );
    expect(zero.status).toBe(422);
  });
});

test('somebody who joins again by the same list, having confirmed it already, starts nothing anew', async () => {
  await world.live({ name: 'Once', steps: [emailStep('Hello once')] });
  await world.join('twice@readers.example');
  await world.join('twice@readers.example');
  await world.ahead(FRIDAY_NOON + 10 * DAY);
  expect(world.mail().filter((m) => m.to === 'twice@readers.example' && m.subject === 'Hello once')).toHaveLength(1);
});
