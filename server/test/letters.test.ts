import { sql } from 'drizzle-orm';
import { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { PersonAnswer, SequenceAnswer, SequencesAnswer } from '@ascenso/contracts';
import { paragraphs } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: ReturnType<typeof agent>;
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const id = async (email: string) => (await world.person(email))?.id ?? '';
const mails = (email: string) => world.mail().filter((m) => m.to.includes(email));

/** Begins a letter and writes it. Answers what is sent with it. */
async function write(email: string, list: string | null, words: string, template: string | null = null) {
  const begun = (
    await ines
      .post(`/api/people/${await id(email)}/letters`)
      .send({ template, list })
      .expect(200)
  ).body as {
    sequence: string;
    step: string;
  };
  const { draft } = (await ines.get(`/api/sequences/${begun.sequence}`).expect(200)).body as SequenceAnswer;
  const [step] = draft.steps;
  const block = step?.kind === 'email' ? step.email.blocks.find((b) => b.kind === 'text')?.id : undefined;
  const button = step?.kind === 'email' ? step.email.blocks.find((b) => b.kind === 'button')?.id : undefined;
  const commands = [
    { type: 'email.set', step: begun.step, field: 'subject', value: words },
    { type: 'block.set', step: begun.step, block, field: 'doc', value: paragraphs([`${words}.`]) },
    ...(button
      ? [
          { type: 'block.set', step: begun.step, block: button, field: 'label', value: 'See it' },
          { type: 'block.set', step: begun.step, block: button, field: 'address', value: 'https://foldwell.example/' },
        ]
      : []),
  ];
  const saved = (
    await ines
      .post(`/api/sequences/${begun.sequence}/commands`)
      .send({ base: 0, edits: [{ commands, role: 'edit' }] })
      .expect(200)
  ).body as { revision: number };
  return { ...begun, revision: saved.revision };
}

test('a letter goes to its one reader, once, is in their story, and stands in no list of sequences', async () => {
  for (const who of ['ana', 'bo']) await world.join(`${who}@x.example`);
  const { sequence, revision } = await write('ana@x.example', world.list, 'About your kit');
  await world.ahead((await world.now()) + 60_000);
  expect(mails('ana@x.example')).toEqual([]);
  await ines.post(`/api/letters/${sequence}/send`).send({ revision }).expect(200);
  const again = await ines.post(`/api/letters/${sequence}/send`).send({ revision }).expect(409);
  expect(again.text).toContain('sent already');
  await world.ahead((await world.now()) + 86_400_000);
  expect(mails('ana@x.example').map((m) => m.subject)).toEqual(['About your kit']);
  expect(mails('bo@x.example')).toEqual([]);
  const { story } = (await ines.get(`/api/people/${await id('ana@x.example')}`).expect(200)).body as PersonAnswer;
  expect(story.some((s) => s.send !== null && s.text.includes('A letter'))).toBe(true);
  const { sequences } = (await ines.get('/api/sequences').expect(200)).body as SequencesAnswer;
  expect(sequences.map((s) => s.id)).not.toContain(sequence);
  const about = (await ines.get(`/api/sequences/${sequence}`).expect(200)).body as SequenceAnswer;
  expect(about.person).toMatchObject({ name: 'ana@x.example', sent: true });
});

test('sent twice at one moment it goes once; one that is refused is not published either', async () => {
  await world.join('fay@x.example');
  const { sequence, revision } = await write('fay@x.example', world.list, 'At once');
  const answers = await Promise.all([1, 2, 3].map(() => ines.post(`/api/letters/${sequence}/send`).send({ revision })));
  expect(answers.map((a) => a.status).filter((s) => s === 200)).toHaveLength(1);
  await world.ahead((await world.now()) + 60_000);
  expect(mails('fay@x.example')).toHaveLength(1);
  const versions = await rows(world.connection.db, sql`select 1 from versions where sequence_id = ${sequence}`);
  expect(versions).toHaveLength(1);
});

test('who may not be mailed is told before anything is published; service mail goes to who unsubscribed', async () => {
  await world.join('cy@x.example');
  await ines
    .post('/api/suppressed')
    .send({ addresses: [{ email: 'cy@x.example', why: 'unsubscribed' }] })
    .expect(200);
  const asked = await write('cy@x.example', world.list, 'Come back');
  const refused = await ines.post(`/api/letters/${asked.sequence}/send`).send({ revision: asked.revision }).expect(409);
  expect(refused.text).toContain('they unsubscribed');
  const service = await write('cy@x.example', null, 'Your repair');
  await ines.post(`/api/letters/${service.sequence}/send`).send({ revision: service.revision }).expect(200);
  await world.ahead((await world.now()) + 60_000);
  expect(mails('cy@x.example').map((m) => m.subject)).toEqual(['Your repair']);
});

test('what is not finished is told by the checks, and sends nothing; a template begins it', async () => {
  await world.join('di@x.example');
  const { email } = emailStep('Kept', { subject: 'Kept words' });
  const template = (
    (await ines.post('/api/templates').send({ name: 'Kept', email, private: false }).expect(200)).body as { id: string }
  ).id;
  const letter = (
    await ines
      .post(`/api/people/${await id('di@x.example')}/letters`)
      .send({ template: null, list: world.list })
      .expect(200)
  ).body as { sequence: string };
  const { revision } = (await ines.get(`/api/sequences/${letter.sequence}`).expect(200)).body as SequenceAnswer;
  await ines.post(`/api/letters/${letter.sequence}/send`).send({ revision }).expect(422);
  const from = (
    await ines
      .post(`/api/people/${await id('di@x.example')}/letters`)
      .send({ template, list: world.list })
      .expect(200)
  ).body as { sequence: string };
  const draft = (await ines.get(`/api/sequences/${from.sequence}`).expect(200)).body as SequenceAnswer;
  expect(JSON.stringify(draft.draft)).toContain('Kept words');
  await ines.post(`/api/letters/${from.sequence}/send`).send({ revision: draft.revision }).expect(200);
  await world.ahead((await world.now()) + 60_000);
  expect(mails('di@x.example').map((m) => m.subject)).toEqual(['Kept words']);
});

test('with the person their letters go: nothing of the words stays, and other emails do', async () => {
  await world.join('eve@x.example');
  const { sequence, revision } = await write('eve@x.example', world.list, 'Zanzibar for Eve');
  await ines.post(`/api/letters/${sequence}/send`).send({ revision }).expect(200);
  await world.ahead((await world.now()) + 60_000);
  await ines
    .post(`/api/people/${await id('eve@x.example')}/erase`)
    .send({ email: 'eve@x.example' })
    .expect(200);
  for (const table of ['sequences', 'versions', 'programs', 'draft_log', 'sends', 'traces'])
    expect(
      await rows(
        world.connection.db,
        sql`select 1 from ${sql.identifier(table)} t where to_jsonb(t)::text like '%Zanzibar%'`,
      ),
    ).toEqual([]);
  expect(
    (await rows(world.connection.db, sql`select 1 from sequences where name = 'A letter'`)).length,
  ).toBeGreaterThan(0);
});
