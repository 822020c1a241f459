import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { AttributeDetails } from '@ascenso/contracts';
import { blankForm, paragraphs, readAnswers, valueReader } from '@ascenso/core';
import { formHtml } from '../src/app/form-html.ts';
import { rows } from '../src/db/rows.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: Agent;
const all = async () => (await ines.get('/api/attributes').expect(200)).body.attributes as AttributeDetails[];
const called = async (key: string) => (await all()).find((a) => a.key === key);

beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

test('an attribute is made behind the others, named anew, and put into another place', async () => {
  const before = (await all()).map((a) => a.key);
  const paper = { key: 'paper', label: 'Favourite paper', type: 'text' };
  await ines.post('/api/attributes').send(paper).expect(200);
  expect((await all()).map((a) => a.key)).toEqual([...before, 'paper']);
  const again = await ines.post('/api/attributes').send(paper).expect(409);
  expect(again.body.error).toMatchObject({ field: 'key', message: 'There is already an attribute “paper”.' });
  for (const key of ['Paper', '9th', 'a b', '', 'email', 'tags'])
    expect(
      (
        await ines
          .post('/api/attributes')
          .send({ ...paper, key })
          .expect(422)
      ).body.error.field,
    ).toBe('key');
  await ines.patch('/api/attributes/paper').send({ label: 'Paper they like' }).expect(200);
  await ines.patch('/api/attributes/nowhere').send({ label: 'x' }).expect(404);
  await ines
    .put('/api/attributes')
    .send({ keys: ['paper', ...before] })
    .expect(200);
  expect((await all()).map((a) => [a.key, a.label])[0]).toEqual(['paper', 'Paper they like']);
});

test('it says how many have a value and every place that uses it; what is used is not deleted', async () => {
  await ines.post('/api/attributes').send({ key: 'thread', label: 'Thread', type: 'text' }).expect(200);
  for (const n of [1, 2, 3]) {
    const person = { email: `t${n}@readers.example`, attributes: { thread: 'waxed' }, zone: null, lists: [] };
    await ines.post('/api/people').send(person).expect(200);
  }
  const step = emailStep('About thread');
  step.email.blocks = [
    {
      kind: 'text',
      id: 't',
      doc: paragraphs(['You like ', { path: 'subscriber.thread', fallback: 'thread', filters: [] }]),
    },
  ];
  const { id } = (await ines.post('/api/sequences').send({ name: 'Threads' }).expect(200)).body as { id: string };
  const command = { type: 'step.insert', place: { arm: null, index: 0 }, step };
  await ines
    .post(`/api/sequences/${id}/commands`)
    .send({ base: 0, edits: [{ commands: [command], role: 'edit' }] })
    .expect(200);
  const rule = { kind: 'not', of: { kind: 'attribute', test: { field: 'thread', op: 'is', value: 'raw' } } };
  const segment = (await ines.post('/api/segments').send({ name: 'Waxed', rule }).expect(200)).body as { id: string };
  expect(await called('thread')).toMatchObject({
    people: 3,
    uses: [
      { name: 'Threads', where: 'About thread', path: `/sequences/${id}`, live: false },
      { name: 'Waxed', where: 'a segment', path: '/people/segments' },
    ],
  });
  const refused = await ines.delete('/api/attributes/thread').expect(409);
  expect(refused.body.error.message).toBe(
    'It is used in “Threads” (About thread), “Waxed” (a segment): take it out there first.',
  );
  await ines.delete(`/api/segments/${segment.id}`).expect(200);
  await ines
    .post(`/api/sequences/${id}/commands`)
    .send({ base: 1, edits: [{ commands: [{ type: 'step.remove', step: step.id }], role: 'edit' }] })
    .expect(200);
  const gone = await ines.delete('/api/attributes/thread').expect(200);
  expect(await called('thread')).toBeUndefined();
  // Brought back, it is what it was, and so is what people have of it.
  await ines
    .post(`/api/bin/${gone.body.undo as string}`)
    .send({})
    .expect(200);
  expect(await called('thread')).toMatchObject({ label: 'Thread', type: 'text', people: 3, uses: [] });
  const kept = await rows<{ n: number }>(
    world.connection.db,
    sql`select count(*) as n from people where attributes->>'thread' = 'waxed'`,
  );
  expect(kept[0]?.n).toBe(3);
});

test('a text can be one of some values: by hand, by a program, by a form and by a file; what was before stays', async () => {
  const skill = { key: 'hand', label: 'Hand', type: 'text', options: ['new', 'some', 'Seasoned'] };
  await ines.post('/api/attributes').send(skill).expect(200);
  for (const options of [['one'], ['a', 'A'], ['', 'b']])
    await ines
      .post('/api/attributes')
      .send({ ...skill, key: 'other', options })
      .expect(422);
  const wrong = await ines
    .post('/api/attributes')
    .send({ ...skill, key: 'other', type: 'number' })
    .expect(422);
  expect(wrong.body.error.message).toContain('Only a text');
  const person = { email: 'one@of.example', attributes: { hand: 'expert' }, zone: null, lists: [] };
  const refused = await ines.post('/api/people').send(person).expect(422);
  expect(refused.body.error).toMatchObject({ field: 'attributes.hand' });
  expect(refused.body.error.message).toContain('is one of new, some, Seasoned');
  const { id } = (
    await ines
      .post('/api/people')
      .send({ ...person, attributes: { hand: 'some' } })
      .expect(200)
  ).body as {
    id: string;
  };
  await expect(world.join('two@of.example', { attributes: { hand: 'expert' } })).rejects.toThrow('422');
  expect(valueReader(skill as never, { days: 'dmy', decimal: '.', yes: [], no: [] })('SEASONED')).toEqual({
    ok: true,
    value: 'Seasoned',
  });
  expect(valueReader(skill as never, { days: 'dmy', decimal: '.', yes: [], no: [] })('expert')).toMatchObject({
    ok: false,
    why: '“expert” is none of new, some, Seasoned',
  });
  const form = { ...blankForm('Gift', world.list, 'en', false) };
  form.fields = [{ kind: 'attribute', id: 'h', key: 'hand', label: 'Have you bound a book?', required: true }];
  const kindOf = () => ({ type: 'text', options: skill.options }) as const;
  expect(readAnswers(form, { hand: 'expert' }, kindOf)).toEqual({ field: 'hand', why: 'wrong' });
  expect(readAnswers(form, { hand: 'new' }, kindOf)).toMatchObject({ attributes: { hand: 'new' } });
  expect(formHtml(form, '/x', kindOf)).toContain('<option>Seasoned</option>');
  await ines
    .patch('/api/attributes/hand')
    .send({ options: ['new', 'old'] })
    .expect(200);
  expect(await called('hand')).toMatchObject({ label: 'Hand', options: ['new', 'old'], people: 1 });
  await ines
    .patch(`/api/people/${id}`)
    .send({ attributes: { hand: 'some' } })
    .expect(422);
  await ines
    .patch(`/api/people/${id}`)
    .send({ attributes: { hand: 'old' } })
    .expect(200);
});
