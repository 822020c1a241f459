import { agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import type { SaveAnswer, SequenceAnswer, SequencesAnswer, TemplateRow } from '@ascenso/contracts';
import { blankEmail, paragraphs, type Command } from '@ascenso/core';
import { newId } from '../src/app/ids.ts';
import { owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: ReturnType<typeof agent>;
let tomasz: ReturnType<typeof agent>;
beforeAll(async () => {
  ines = agent(world.app);
  tomasz = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await world.addUser('tomasz@foldwell.example', 'editor');
  await tomasz.post('/api/session').send({ email: 'tomasz@foldwell.example', password: owner.password }).expect(200);
});

interface Draft {
  sequence: string;
  step: string;
}
const emailOf = (subject: string) => ({ ...blankEmail(newId).email, subject });
const make = async (name: string, subject = 'As it was', own = false) =>
  (
    (
      await ines
        .post('/api/templates')
        .send({ name, email: emailOf(subject), private: own })
        .expect(200)
    ).body as {
      id: string;
    }
  ).id;
const open = async (id: string, who = ines) => (await who.post(`/api/templates/${id}/draft`).expect(200)).body as Draft;
const templates = async (who = ines) => (await who.get('/api/templates').expect(200)).body.templates as TemplateRow[];
const template = async (id: string) => (await templates()).find((t) => t.id === id);
const draftOf = async ({ sequence }: Draft) =>
  (await ines.get(`/api/sequences/${sequence}`).expect(200)).body as SequenceAnswer;
const save = async ({ sequence }: Draft, base: number, commands: Command[]) =>
  (
    await ines
      .post(`/api/sequences/${sequence}/commands`)
      .send({ base, edits: [{ role: 'edit', commands }] })
      .expect(200)
  ).body as SaveAnswer;
const subjectTo = (draft: Draft, value: string): Command => ({
  type: 'email.set',
  step: draft.step,
  field: 'subject',
  value,
});

describe('a template is written in a draft of its own', () => {
  test('what is saved there is the template, and its name', async () => {
    const id = await make('Lesson');
    const draft = await open(id);
    await save(draft, 0, [
      subjectTo(draft, 'Fold once'),
      { type: 'set', field: 'name', value: 'Lesson of the course' },
    ]);
    expect(await template(id)).toMatchObject({ name: 'Lesson of the course', email: { subject: 'Fold once' } });
    // Opened again, and by a colleague, it is the same draft.
    expect(await open(id)).toEqual(draft);
    expect(await open(id, tomasz)).toEqual(draft);
  });

  test('what is changed of it elsewhere becomes an edit there, beside what others write in it', async () => {
    const id = await make('Changed elsewhere');
    const draft = await open(id);
    const before = (await draftOf(draft)).draft.steps[0];
    const [first] = before?.kind === 'email' ? before.email.blocks : [];
    await ines
      .put(`/api/templates/${id}`)
      .send({
        name: 'Changed',
        about: 'For news',
        email: { ...(await template(id))?.email, subject: 'Anew' },
        private: false,
      })
      .expect(200);
    const there = await draftOf(draft);
    expect(there.draft).toMatchObject({ name: 'Changed', steps: [{ name: 'Changed', email: { subject: 'Anew' } }] });
    // Somebody who had not seen that yet writes on: both stand.
    const block = first?.id ?? '';
    await save(draft, 0, [
      { type: 'block.set', step: draft.step, block, field: 'doc', value: paragraphs('Written on.') },
    ]);
    const now = await template(id);
    expect(now).toMatchObject({ name: 'Changed', about: 'For news', email: { subject: 'Anew' } });
    expect(now?.email.blocks.find((b) => b.id === block)).toMatchObject({ doc: paragraphs('Written on.') });
  });

  test('it is in no list, nothing is begun by it, and it goes out to nobody', async () => {
    const id = await make('Nowhere else');
    const draft = await open(id);
    const { sequences } = (await ines.get('/api/sequences').expect(200)).body as SequencesAnswer;
    expect(sequences.map((s) => s.id)).not.toContain(draft.sequence);
    const around = (await ines.get('/api/surroundings').expect(200)).body;
    expect(JSON.stringify(around.sequences)).not.toContain(draft.sequence);
    const found = (await ines.get('/api/find?q=Nowhere').expect(200)).text;
    expect(found).toContain(id);
    expect(found).not.toContain(draft.sequence);
    const refused = await ines.post(`/api/sequences/${draft.sequence}/publish`).send({ revision: 0 }).expect(409);
    expect(refused.body.error.message).toContain('goes out to nobody');
  });

  test('one that is kept for oneself is opened by its owner alone', async () => {
    const id = await make('Mine', 'Private', true);
    await open(id);
    await tomasz.post(`/api/templates/${id}/draft`).expect(404);
  });

  test('deleted, it takes its draft along; brought back, it is written on as it was', async () => {
    const id = await make('Gone and back', 'Kept');
    const draft = await open(id);
    await save(draft, 0, [subjectTo(draft, 'Kept well')]);
    const { undo } = (await ines.delete(`/api/templates/${id}`).expect(200)).body as { undo: string };
    await ines.get(`/api/sequences/${draft.sequence}`).expect(404);
    await ines.post(`/api/bin/${undo}`).send({}).expect(200);
    const back = await open(id);
    expect((await draftOf(back)).draft).toMatchObject({
      name: 'Gone and back',
      steps: [{ email: { subject: 'Kept well' } }],
    });
  });
});
