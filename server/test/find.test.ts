import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { blankSequence, paragraphs, type Sequence } from '@ascenso/core';
import type { FindAnswer } from '@ascenso/contracts';
import { newId } from '../src/app/ids.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const find = async (q: string) =>
  (await agent.get(`/api/find?q=${encodeURIComponent(q)}`).expect(200)).body as FindAnswer;

/** A draft with one email that says some words. */
async function draft(name: string, subject: string, said: string): Promise<string> {
  const step = emailStep(`Letter of ${name}`, { subject });
  const [block] = step.email.blocks;
  if (block?.kind === 'text') block.doc = paragraphs(said);
  const id = newId();
  const doc: Sequence = { ...blankSequence(name, world.list), steps: [step] };
  await world.connection.db.execute(
    sql`insert into sequences (workspace_id, id, name, status, created_at, revision, draft) values (${world.ws}, ${id}, ${name}, 'draft', 0, 0, ${JSON.stringify(doc)}::jsonb)`,
  );
  return id;
}

test('an email is found by its name, its subject and its words, whichever sequence it is in; those that are called so first', async () => {
  await draft('Course', 'Evening one', 'Tonight: “waxed” thread, and 100% linen.');
  const called = await draft('Thread news', 'Waxed thread is back', 'Six colours.');
  expect((await find('waxed thread')).emails).toMatchObject([
    { sequence: { id: called, name: 'Thread news' }, subject: 'Waxed thread is back', excerpt: '' },
    { sequence: { name: 'Course' }, excerpt: expect.stringContaining('“waxed” thread') },
  ]);
  // Signs that mean something to a database or to JSON mean themselves.
  for (const q of ['100%', '“waxed”', 'linen.'])
    expect((await find(q)).emails.map((e) => e.sequence.name)).toEqual(['Course']);
  for (const q of ['10_%', "linen'", '"linen"', 'thread silk', '\\u0020']) expect((await find(q)).emails).toEqual([]);
  // The markup of an email is none of its words.
  expect((await find('paragraph')).emails).toEqual([]);
  expect((await find('')).emails.length).toBe(2);
  await agent.get(`/api/find?q=${'x'.repeat(101)}`).expect(422);
});

test('things are found by name, people by name and address, and what is put away is not', async () => {
  await world.join('marta@readers.example', { attributes: { first_name: 'Marta' } });
  const gone = await draft('Old autumn letters', 'x', 'y');
  await world.connection.db.execute(sql`update sequences set status = 'archived' where id = ${gone}`);
  expect((await find('letters')).things).toMatchObject([{ kind: 'list', name: 'Workshop letters' }]);
  expect((await find('marta')).things).toMatchObject([
    { kind: 'person', name: 'Marta', note: 'marta@readers.example' },
  ]);
  expect((await find('news thread')).things).toMatchObject([{ kind: 'sequence', name: 'Thread news' }]);
});

test('a draft that never went live is deleted, and comes back; one that did, or that another starts, stays', async () => {
  const id = await draft('To be deleted', 'x', 'y');
  const live = await world.live({ name: 'Runs', steps: [emailStep('Hello')] });
  const refused = await agent.delete(`/api/sequences/${live}`);
  expect(refused.status).toBe(409);
  expect(refused.body.error.message).toMatch(/archive it/);
  const starter = await draft('Starts it', 'x', 'y');
  const start = { id: 'start', on: true, note: '', kind: 'action', action: { type: 'start-sequence', sequence: id } };
  await world.connection.db.execute(
    sql`update sequences set draft = jsonb_set(draft, '{steps,1}', ${JSON.stringify(start)}::jsonb) where id = ${starter}`,
  );
  const used = await agent.delete(`/api/sequences/${id}`);
  expect(used.status).toBe(409);
  expect(used.body.error.message).toMatch(/“Starts it”/);
  await world.connection.db.execute(sql`update sequences set draft = draft #- '{steps,1}' where id = ${starter}`);
  const { undo } = (await agent.delete(`/api/sequences/${id}`).expect(200)).body as { undo: string };
  await agent.get(`/api/sequences/${id}`).expect(404);
  await agent.post(`/api/bin/${undo}`).send({}).expect(200);
  expect((await agent.get(`/api/sequences/${id}`).expect(200)).body.draft.name).toBe('To be deleted');
});
