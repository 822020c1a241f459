import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { ConsentRow, ListDetails, PersonAnswer, TagRow } from '@ascenso/contracts';
import { rows } from '../src/db/rows.ts';
import { actionStep, emailStep, FRIDAY_NOON, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: Agent;
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  for (const [who, tags] of [
    ['a', ['kits', 'kit']],
    ['b', ['kits']],
    ['c', ['kit', 'used']],
    ['d', []],
  ] as const)
    await world.connection.db.execute(
      sql`insert into people (workspace_id, id, email, attributes, tags, created_at) values (${world.ws}, gen_random_uuid(), ${`${who}@tags.example`}, '{}', ${sql.param(tags)}::text[], 1)`,
    );
});

const held = async (): Promise<Record<string, string>> =>
  Object.fromEntries<string>(
    (
      await rows<{ email: string; tags: string[] }>(
        world.connection.db,
        sql`select email, tags from people where email like '%@tags.example' order by email`,
      )
    ).map((p) => [p.email.slice(0, 1), [...p.tags].sort().join(' ')]),
  );
const tagsNow = async (): Promise<Record<string, number>> =>
  Object.fromEntries(
    ((await ines.get('/api/tags').expect(200)).body as { tags: TagRow[] }).tags.map((t) => [t.tag, t.people]),
  );
const lists = async () => ((await ines.get('/api/lists').expect(200)).body as { lists: ListDetails[] }).lists;
const undo = (answer: { body: unknown }) =>
  ines
    .post(`/api/bin/${(answer.body as { undo: string }).undo}`)
    .send({})
    .expect(200);

describe('tags', () => {
  test('a tag is renamed, made one with another, and deleted; each is taken back as it was', async () => {
    const before = await held();
    expect(before).toEqual({ a: 'kit kits', b: 'kits', c: 'kit used', d: '' });
    expect(await tagsNow()).toEqual({ kit: 2, kits: 2, used: 1 });
    const renamed = await ines.patch('/api/tags/kits').send({ tag: 'sets' }).expect(200);
    expect(await held()).toEqual({ a: 'kit sets', b: 'sets', c: 'kit used', d: '' });
    await undo(renamed);
    expect(await held()).toEqual(before);
    const merged = await ines.patch('/api/tags/kits').send({ tag: 'kit' }).expect(200);
    expect(await held()).toEqual({ a: 'kit', b: 'kit', c: 'kit used', d: '' });
    await undo(merged);
    expect(await held()).toEqual(before);
    const deleted = await ines.delete('/api/tags/kits').expect(200);
    expect(await held()).toEqual({ a: 'kit', b: '', c: 'kit used', d: '' });
    await undo(deleted);
    expect(await held()).toEqual(before);
    await ines.delete('/api/tags/nobodys').expect(404);
  });

  test('a tag that a sequence speaks of stays, and it is said where', async () => {
    await world.live({ name: 'Speaks', steps: [emailStep('Hello'), actionStep({ type: 'add-tag', tag: 'used' })] });
    for (const answer of [
      await ines.delete('/api/tags/used'),
      await ines.patch('/api/tags/used').send({ tag: 'kit' }),
    ]) {
      expect(answer.status).toBe(409);
      expect(JSON.stringify(answer.body)).toContain('“Speaks” (an action)');
    }
    expect((await held()).c).toBe('kit used');
  });
});

describe('lists', () => {
  test('a list is made, named here and for its readers, deleted and brought back with who is on it', async () => {
    const { body } = await ines.post('/api/lists').send({ name: 'Fair' }).expect(200);
    const id = (body as { id: string }).id;
    await ines
      .patch(`/api/lists/${id}`)
      .send({ publicName: 'Letters from the fair', told: 'One in spring.' })
      .expect(200);
    await world.join('on@fair.example', { lists: ['Fair'] });
    const fair = async () => (await lists()).find((l) => l.id === id);
    expect(await fair()).toMatchObject({
      name: 'Fair',
      publicName: 'Letters from the fair',
      told: 'One in spring.',
      confirmed: 1,
      uses: [],
    });
    await ines.patch(`/api/lists/${id}`).send({ name: '' }).expect(422);
    await ines.patch(`/api/lists/${id}`).send({ name: 'Workshop letters' }).expect(422);
    const gone = await ines.delete(`/api/lists/${id}`).expect(200);
    expect(await fair()).toBeUndefined();
    await undo(gone);
    expect(await fair()).toMatchObject({ name: 'Fair', confirmed: 1 });
    const used = await ines.delete(`/api/lists/${world.list}`).expect(409);
    expect(JSON.stringify(used.body)).toContain('whom it mails');
  });

  test('whoever joins or leaves, however it is, has it on record with how, where from and when', async () => {
    const club = await world.addList(world.ws, 'Club');
    await world.live({ name: 'Puts them on', steps: [emailStep('Hi'), actionStep({ type: 'join-list', list: club })] });
    const told = Date.UTC(2026, 2, 1, 9);
    await world.join('ana@record.example', { confirmed_at: new Date(told).toISOString() });
    await world.ahead(FRIDAY_NOON + 60_000);
    const person = (await world.person('ana@record.example'))?.id ?? '';
    await ines.post(`/api/people/${person}/lists`).send({ list: club, state: 'left' }).expect(200);
    const consent = ((await ines.get(`/api/people/${person}`).expect(200)).body as PersonAnswer).consent;
    expect(consent.map(({ list, what, how, source }: ConsentRow) => [list, what, how, source])).toEqual([
      ['Club', 'left', 'hand', 'Inês Rocha'],
      ['Club', 'joined', 'sequence', 'Puts them on'],
      ['Workshop letters', 'joined', 'api', 'Shop'],
    ]);
    expect(consent[2]?.at).toBe(told);
    const file = (await ines.get(`/api/people/${person}/file`).expect(200)).body as { consent: { at: string }[] };
    expect(file.consent[2]?.at).toBe('2026-03-01T09:00:00.000Z');
    await ines.post(`/api/people/${person}/erase`).send({ email: 'ana@record.example' }).expect(200);
    expect(await rows(world.connection.db, sql`select 1 from consents where person_id = ${person}`)).toEqual([]);
  });
});
