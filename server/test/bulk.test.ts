import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { BulkAnswer, PeopleAnswer } from '@ascenso/contracts';
import type { Condition } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: Agent;
const ids: Record<string, string> = {};
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  for (const [who, attributes, tags, points] of [
    ['ana', { first_name: 'Ana', orders: 3 }, ['kit'], 5],
    ['bea', { first_name: 'Bea' }, [], 30],
    ['cai', { first_name: 'Cai', orders: 12 }, ['kit', 'old'], 10],
    ['dov', {}, [], 0],
  ] as const) {
    const [made] = await rows<{ id: string }>(
      world.connection.db,
      sql`insert into people (workspace_id, id, email, attributes, tags, points, created_at) values (${world.ws}, gen_random_uuid(), ${`${who}@many.example`}, ${JSON.stringify(attributes)}::jsonb, ${sql.param(tags)}::text[], ${points}, 1) returning id`,
    );
    ids[who] = made?.id ?? '';
  }
});

/** All that can change, as text: the judge of an undo. */
const all = () =>
  rows<{ row: string }>(
    world.connection.db,
    sql`select to_jsonb(p)::text as row from people p union all select to_jsonb(m)::text from memberships m union all select to_jsonb(c)::text from consents c order by 1`,
  );
const kit: Condition = { kind: 'tag', tag: 'kit', has: true };
const some = (...who: string[]) => ({ ids: who.map((w) => ids[w] ?? '') });
const fitting = (rule: Condition | null, count: number, q = '') => ({ q, segment: null, rule, count });
const bulk = async (who: object, what: object) => {
  const answer = await ines.post('/api/people/bulk').send({ who, what });
  return { status: answer.status, ...(answer.body as BulkAnswer & { error?: { field: string; message: string } }) };
};
const names = async (query: string) =>
  ((await ines.get(`/api/people?${query}`).expect(200)).body as PeopleAnswer).people
    .map((p) => p.email.slice(0, 3))
    .join(' ');

describe('a page of people', () => {
  test('they are found by any condition, and ordered by what one chooses; who has no value comes last', async () => {
    const rule = encodeURIComponent(JSON.stringify(kit));
    expect(await names(`rule=${rule}&sort=email`)).toBe('ana cai');
    expect(await names(`sort=-points`)).toBe('bea cai ana dov');
    expect((await names('sort=attribute.orders')).slice(0, 7)).toBe('ana cai');
    expect(await names(`sort=-attribute.first_name`)).toBe('cai bea ana dov');
    expect(await names(`rule=${rule}&q=cai`)).toBe('cai');
    await ines.get('/api/people?rule=%7Bbad').expect(422);
    await ines
      .get(
        `/api/people?rule=${encodeURIComponent(JSON.stringify({ kind: 'email', what: 'opened', step: 'x', did: true }))}`,
      )
      .expect(422);
  });
});
describe('what is done to many', () => {
  test.each([
    ['a tag', { kind: 'tag', tag: 'fair' }, 4, 4],
    ['a tag that some have', { kind: 'tag', tag: 'kit' }, 4, 2],
    ['a tag taken off', { kind: 'untag', tag: 'kit' }, 4, 2],
    ['an attribute', { kind: 'attribute', key: 'orders', value: 3 }, 4, 3],
    ['an attribute taken away', { kind: 'attribute', key: 'orders', value: null }, 4, 2],
  ])('%s: as many as it changes are told, and all of it is taken back', async (_, what, asked, changed) => {
    const before = await all();
    const done = await bulk(fitting(null, 4, 'many.example'), what);
    expect(done).toMatchObject({ status: 200, asked, changed });
    expect(await all()).not.toEqual(before);
    await ines.post(`/api/bin/${done.undo}`).send({}).expect(200);
    expect(await all()).toEqual(before);
  });

  test('a list: who has left it stays off, no sequence starts, consent says by whom; taken back as it was', async () => {
    await world.live({ name: 'Welcome', steps: [emailStep('Welcome')] });
    await world.connection.db.execute(
      sql`insert into memberships (workspace_id, person_id, list_id, state, at) values (${world.ws}, ${ids.ana}, ${world.list}, 'left', 1), (${world.ws}, ${ids.bea}, ${world.list}, 'pending', 1)`,
    );
    const before = await all();
    const done = await bulk(some('ana', 'bea', 'cai'), { kind: 'list', list: world.list });
    expect(done).toMatchObject({ asked: 3, changed: 2 });
    const on = await rows(
      world.connection.db,
      sql`select split_part(p.email, '@', 1) as who, m.state, s.how, s.label from memberships m join people p on p.id = m.person_id
      left join consents c on c.person_id = p.id left join consent_sources s on s.id = c.source_id order by 1`,
    );
    expect(on).toEqual([
      { who: 'ana', state: 'left', how: null, label: null },
      { who: 'bea', state: 'confirmed', how: 'hand', label: owner.name },
      { who: 'cai', state: 'confirmed', how: 'hand', label: owner.name },
    ]);
    expect(await rows(world.connection.db, sql`select 1 from visits`)).toEqual([]);
    await ines.post(`/api/bin/${done.undo}`).send({}).expect(200);
    const withoutTime = (list: { row: string }[]) => list.map((r) => r.row.replace(/"at": \d+/, '"at": 0')).sort();
    expect(withoutTime(await all())).toEqual(withoutTime(before));
  });

  test('of somebody who is erased, what an attribute of theirs was goes out of the way back too', async () => {
    const secret = 'Rua das Gáveas 12';
    const [made] = await rows<{ id: string }>(
      world.connection.db,
      sql`insert into people (workspace_id, id, email, attributes, created_at) values (${world.ws}, gen_random_uuid(), 'gone@many.example', ${JSON.stringify({ first_name: secret })}::jsonb, 1) returning id`,
    );
    const done = await bulk({ ids: [made?.id, ids.bea] }, { kind: 'attribute', key: 'first_name', value: 'Ola' });
    expect(done).toMatchObject({ changed: 2 });
    await ines.post(`/api/people/${made?.id}/erase`).send({ email: 'gone@many.example' }).expect(200);
    const kept = await rows<{ row: string }>(world.connection.db, sql`select row::text from bin`);
    expect(kept.map((k) => k.row).join('')).not.toContain(secret);
    await ines.post(`/api/bin/${done.undo}`).send({}).expect(200);
    expect(await names('sort=-attribute.first_name')).toMatch(/bea/);
    expect(
      await rows(world.connection.db, sql`select attributes->>'first_name' as n from people where id = ${ids.bea}`),
    ).toEqual([{ n: 'Bea' }]);
  });

  test('into a sequence; and erased, once their number has been typed', async () => {
    const sequence = await world.live({
      name: 'By hand',
      triggers: [{ kind: 'hand' }],
      list: null,
      steps: [emailStep('Hello')],
    });
    expect(await bulk(some('ana', 'bea'), { kind: 'sequence', sequence })).toMatchObject({ asked: 2, changed: 2 });
    expect(await bulk(some('dov'), { kind: 'erase', count: 2 })).toMatchObject({
      status: 422,
      error: { field: 'count' },
    });
    expect(await bulk(some('dov'), { kind: 'erase', count: 1 })).toMatchObject({ asked: 1, changed: 1 });
    expect(await names('q=dov')).toBe('');
  });

  test('more people than were seen are left alone, and so is what is wrong', async () => {
    const before = await all();
    expect(await bulk(fitting(kit, 1), { kind: 'tag', tag: 'x' })).toMatchObject({
      status: 409,
      error: { field: 'count' },
    });
    expect(await bulk(some('ana'), { kind: 'attribute', key: 'orders', value: 'many' })).toMatchObject({
      status: 422,
      error: { field: 'attributes.orders' },
    });
    expect(await bulk(some('ana'), { kind: 'list', list: ids.ana })).toMatchObject({
      status: 422,
      error: { field: 'list' },
    });
    expect(await all()).toEqual(before);
  });
});
