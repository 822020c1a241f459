import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { BehindAnswer, Republished, SaveAnswer, SequenceAnswer, SequencesAnswer } from '@ascenso/contracts';
import { behindWords, paragraphs, type Command } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, FRIDAY_NOON, owner, testId, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
let shared: string;
let sender: string;
/** A live sequence with the shared block, and one without. */
let holding: string;
let plain: string;

const block = (words: string) => ({ kind: 'text', id: testId(), doc: paragraphs(words) });
const behind = async () => {
  const { sequences } = (await agent.get('/api/behind').expect(200)).body as BehindAnswer;
  return Object.fromEntries(sequences.map((s) => [s.id, s.behind.map(behindWords)]));
};
const one = async (id: string) => (await agent.get(`/api/sequences/${id}`).expect(200)).body as SequenceAnswer;
const republish = async (...sequences: string[]) => {
  const { text } = await agent
    .post('/api/behind')
    .send({ sequences })
    .buffer()
    .parse((res, done) => {
      let all = '';
      res.on('data', (part: Buffer) => (all += part.toString()));
      res.on('end', () => done(null, all));
    })
    .expect(200)
    .then((res) => ({ text: res.body as string }));
  return text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Republished);
};
const save = async (id: string, commands: Command[], role = 'edit') => {
  const { revision } = await one(id);
  const { body } = await agent
    .post(`/api/sequences/${id}/commands`)
    .send({ base: revision, edits: [{ commands, role }] })
    .expect(200);
  const { unpublished, edits } = body as SaveAnswer;
  return { unpublished, inverses: edits[0]?.inverses ?? [] };
};

beforeAll(async () => {
  await world.stand(FRIDAY_NOON);
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const made = await agent
    .post('/api/shared')
    .send({ name: 'Hours', blocks: [block('Ten to four.')] })
    .expect(200);
  shared = (made.body as { id: string }).id;
  const [row] = await rows<{ id: string }>(
    world.connection.db,
    sql`select id from senders where workspace_id = ${world.ws} and is_default`,
  );
  sender = row?.id ?? '';
  const step = emailStep('Letter');
  step.email.blocks.unshift({ kind: 'shared', id: testId(), shared });
  holding = await world.live({ name: 'Holding', steps: [step] });
  plain = await world.live({ name: 'Plain', steps: [emailStep('Note')] });
});

/** What somebody who joins now reads. */
async function arrives(): Promise<string[]> {
  const to = `reader-${testId()}@readers.example`;
  await world.join(to);
  await world.ahead((await world.now()) + 1);
  const { store } = world.mailbox;
  return store.summaries
    .filter((s) => s.to === to)
    .map((s) => store.source(s).toString().replace(/=\r\n/g, '').replace(/=3D/g, '='));
}

test('nothing is behind where nothing differs, also when a change has been taken back', async () => {
  expect(await behind()).toEqual({});
  expect(await one(plain)).toMatchObject({ unpublished: false, behind: [] });
  const { inverses, unpublished } = await save(plain, [{ type: 'set', field: 'name', value: 'Another name' }]);
  expect([unpublished, (await one(plain)).unpublished]).toEqual([true, true]);
  expect((await save(plain, inverses, 'undo')).unpublished).toBe(false);
  const { sequences } = (await agent.get('/api/sequences').expect(200)).body as SequencesAnswer;
  expect(sequences.map((s) => [s.name, s.unpublished, s.behind])).toEqual([
    ['Holding', false, []],
    ['Plain', false, []],
  ]);
  const before = { accent: '#6b3a22' };
  await agent.put('/api/style').send({ accent: '#0a5c36' }).expect(200);
  expect(Object.keys(await behind())).toHaveLength(2);
  await agent.put('/api/style').send(before).expect(200);
  expect(await behind()).toEqual({});
});

test('what changes in the house is named for each live sequence that it concerns', async () => {
  await agent
    .put(`/api/shared/${shared}`)
    .send({ name: 'Hours', blocks: [block('Nine to six.')] })
    .expect(200);
  expect(await behind()).toEqual({ [holding]: ['Shared block “Hours”'] });
  await agent.put('/api/style').send({ accent: '#0a5c36', postalAddress: 'Rua Nova 1, Lisboa' }).expect(200);
  const style = 'House style: colour of headings and buttons, postal address';
  expect(await behind()).toEqual({ [holding]: [style, 'Shared block “Hours”'], [plain]: [style] });
  await agent
    .put(`/api/senders/${sender}`)
    .send({ name: 'Inês', email: 'ines@foldwell.example', fields: { phone: '+351 21' } })
    .expect(200);
  expect((await behind())[plain]).toEqual([style, expect.stringMatching(/^Sender “Inês”: .*phone/)]);
  expect((await one(plain)).behind).toHaveLength(2);
  // Until it is published, what goes out is as it was.
  expect((await arrives()).some((mail) => mail.includes('#0a5c36') || mail.includes('Nine to six'))).toBe(false);
});

test('only the change goes out, each sequence by itself: edits stay, whoever cannot be published is told', async () => {
  await save(holding, [{ type: 'set', field: 'name', value: 'Edited meanwhile' }]);
  const gone = '018f0000-0000-7000-8000-000000000000';
  expect(await republish(holding, gone, plain)).toEqual([
    { id: holding, version: 2 },
    { id: gone, error: expect.stringContaining('no live sequence') },
    { id: plain, version: 2 },
  ]);
  expect(await behind()).toEqual({});
  expect(await one(holding)).toMatchObject({ unpublished: true, behind: [], liveVersion: 2 });
  const { sequence } = (await agent.get(`/api/sequences/${holding}/versions/2`).expect(200)).body as {
    sequence: { name: string };
  };
  expect(sequence.name).toBe('Holding');
  const mails = await arrives();
  expect(mails).toHaveLength(2);
  for (const mail of mails) expect(mail).toContain('#0a5c36');
  expect(mails.filter((mail) => mail.includes('Nine to six.'))).toHaveLength(1);
  // Again, or by two at once: nothing is behind, and no version is made.
  expect(await republish(plain)).toEqual([{ id: plain, version: 2 }]);
});

test('a change that would break an email is refused with its reason, and what runs goes on', async () => {
  await agent
    .put(`/api/shared/${shared}`)
    .send({ name: 'Hours', blocks: [block('Open {{ nope')] })
    .expect(200);
  const [told] = await republish(holding);
  expect(told).toMatchObject({ id: holding, error: expect.stringContaining('to be fixed') });
  expect(Object.keys(await behind())).toEqual([holding]);
  expect((await arrives()).some((mail) => mail.includes('Nine to six.'))).toBe(true);
});
