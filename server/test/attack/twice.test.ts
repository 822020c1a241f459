import type { Server } from 'node:http';
import { sql } from 'drizzle-orm';
import { agent, type Agent } from 'supertest';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { blankOffer, type Condition } from '@ascenso/core';
import { rows } from '../../src/db/rows.ts';
import { emailStep, owner, useWorld } from '../support/world.ts';

// Two at once: a double click, two tabs, two colleagues.
const world = useWorld();
let server: Server;
let own: Agent;
beforeAll(async () => {
  server = world.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  own = agent(server);
  await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
afterAll(() => new Promise((resolve) => server.close(resolve)));

test('publishing a revision that is published makes no second version, also when both presses come at once', async () => {
  const id = await world.live({ name: 'Twice', steps: [emailStep('Once')] });
  await world.connection.db.execute(sql`update sequences set revision = 1 where id = ${id}`);
  const press = () => own.post(`/api/sequences/${id}/publish`).send({ revision: 1, inside: 'finish' }).expect(200);
  const answers = await Promise.all([press(), press(), press()]);
  expect(answers.map((a) => a.body as object)).toEqual([{ version: 2 }, { version: 2 }, { version: 2 }]);
  const found = await rows(world.connection.db, sql`select number from versions where sequence_id = ${id} order by 1`);
  expect(found).toEqual([{ number: 1 }, { number: 2 }]);
});

const rule: Condition = { kind: 'tag', tag: 'x', has: true };
const offer = (name: string, code: string) => ({
  ...blankOffer(),
  name,
  codes: { kind: 'shared', code },
});
const made: [string, string, (i: number) => object, RegExp][] = [
  ['lists', '/api/lists', (i) => ({ name: i % 2 ? 'Two at once' : 'TWO AT ONCE' }), /already a list with this name/],
  ['segments', '/api/segments', () => ({ name: 'Two at once', rule }), /already a segment with this name/],
  ['offers', '/api/offers', (i) => offer('Two at once', `TWICE${i}`), /already an offer with this name/],
  ['shared codes', '/api/offers', (i) => offer(`Offer ${i}`, 'ONE-CODE'), /gives this code already/],
];
describe('equal things', () => {
  test.each(made)(
    'of eight equal %s made at once one is made, the others are told why',
    async (_what, path, body, why) => {
      const answers = await Promise.all(Array.from({ length: 8 }, (_, i) => own.post(path).send(body(i))));
      expect(answers.map((a) => a.status).sort()).toEqual([200, ...Array<number>(7).fill(422)]);
      for (const a of answers) if (a.status === 422) expect(a.body.error.message).toMatch(why);
    },
  );

  test('a segment cannot be given the name of another', async () => {
    const { body } = await own.post('/api/segments').send({ name: 'Another', rule }).expect(200);
    const answer = await own.put(`/api/segments/${body.id}`).send({ name: 'two AT once', rule }).expect(422);
    expect(answer.body.error).toMatchObject({ field: 'name', message: 'There is already a segment with this name.' });
  });
});

test('a double click sends one test; a test that was not taken can be tried again at once', async () => {
  const id = await world.live({ name: 'Tested', steps: [emailStep('Once')] });
  await world.join('marta@readers.example');
  const [person] = await rows<{ id: string }>(world.connection.db, sql`select id from people`);
  const [step] = (await own.get(`/api/sequences/${id}`)).body.draft.steps as { id: string }[];
  const press = (to: string) =>
    own.post(`/api/sequences/${id}/steps/${step?.id}/test`).send({ to, person: person?.id, event: null });
  const arrived = (to: string) => world.mailbox.store.summaries.filter((s) => s.to === to).length;
  const both = await Promise.all([press('a@team.example'), press('a@team.example')]);
  expect(both.map((a) => a.status)).toEqual([200, 200]);
  expect(arrived('a@team.example')).toBe(1);
  await press('b@team.example').expect(200);
  expect(arrived('b@team.example')).toBe(1);
  // busy.example takes nothing at the first try.
  await press('a@busy.example').expect(502);
  await press('a@busy.example').expect(200);
  expect(arrived('a@busy.example')).toBe(1);
});

test('the mailbox shows a workspace its own mail only', async () => {
  await world.otherWorkspace();
  const theirs = agent(server);
  await theirs.post('/api/session').send({ email: 'ada@elsewhere.example', password: owner.password }).expect(200);
  const seen = async (who: Agent) =>
    (await who.get('/api/outside/mailbox').expect(200)).body as { messages: { id: number }[]; more: boolean };
  const mine = await seen(own);
  expect(mine.messages.length).toBeGreaterThan(0);
  expect(await seen(theirs)).toEqual({ messages: [], more: false });
  await own.get(`/api/outside/mailbox/${mine.messages[0]?.id}`).expect(200);
  await theirs.get(`/api/outside/mailbox/${mine.messages[0]?.id}`).expect(404);
});

test('one save takes 500 commands, and no more', async () => {
  const { body } = await own.post('/api/sequences').send({ name: 'Many edits' }).expect(200);
  const save = (base: number, n: number) =>
    own.post(`/api/sequences/${body.id}/commands`).send({
      base,
      edits: [
        {
          role: 'edit',
          commands: Array.from({ length: n }, (_, i) => ({ type: 'set', field: 'name', value: `Edit ${i}` })),
        },
      ],
    });
  const answer = await save(0, 501).expect(422);
  expect(answer.body.error).toMatchObject({
    field: 'edits',
    message: expect.stringContaining('500 commands at most'),
  });
  await save(0, 500).expect(200);
});
