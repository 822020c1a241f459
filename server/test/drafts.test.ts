import { randomUUID } from 'node:crypto';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { HereAnswer, SaveAnswer } from '@ascenso/contracts';
import { applyCommands, stacksOf, type Command, type Saved, type Sequence } from '@ascenso/core';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
type Agent = ReturnType<typeof request.agent>;
let ines: Agent;
let ana: Agent;
const signedIn = async (email: string) => {
  const agent = request.agent(world.app);
  await agent.post('/api/session').send({ email, password: owner.password }).expect(200);
  return agent;
};
beforeAll(async () => {
  await world.addUser('ana@foldwell.example', 'editor');
  ines = await signedIn(owner.email);
  ana = await signedIn('ana@foldwell.example');
});

const insert = (name: string): Command => ({
  type: 'step.insert',
  place: { arm: null, index: 0 },
  step: emailStep(name, { id: `step-${name}` }),
});
const rename = (name: string, value: string): Command => ({
  type: 'step.set',
  step: `step-${name}`,
  field: 'name',
  value,
});
interface Body {
  draft: Sequence;
  revision: number;
  log: Saved[];
}
const begin = async () => (await ines.post('/api/sequences').send({ name: 'Together' }).expect(200)).body.id as string;
const read = async (id: string) => (await ines.get(`/api/sequences/${id}`).expect(200)).body as Body;
const save = (who: Agent, id: string, base: number, commands: Command[], more: object = {}) =>
  who.post(`/api/sequences/${id}/commands`).send({ base, edits: [{ role: 'edit', commands, ...more }] });
const namesOf = ({ draft }: Body) => draft.steps.map((s) => 'name' in s && s.name);

test('edits on an older revision go on top of what came since', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a'), insert('b')]).expect(200);
  await save(ines, id, 1, [rename('a', 'A')]).expect(200);
  const { body } = await save(ana, id, 1, [rename('b', 'B')]).expect(200);
  expect(body.revision).toBe(3);
  expect(namesOf(await read(id))).toEqual(['B', 'A']);
});

test('two who change the same place: the second is set aside whole, and is told what it collides with', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  await save(ines, id, 1, [rename('a', 'hers')]).expect(200);
  const before = await read(id);
  const { body } = await save(ana, id, 1, [insert('c'), rename('a', 'mine')]).expect(200);
  expect((body as SaveAnswer).aside).toMatchObject([
    { why: 'Inês Rocha changed the same place.', over: { revision: 2, by: 'Inês Rocha', mine: false } },
  ]);
  expect((body as SaveAnswer).edits.map((e) => e.revision)).toEqual([2]);
  expect(await read(id)).toEqual(before);
});

test('two edits of one, the second in another’s place too: her own first edit does not carry it over theirs', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a'), insert('b')]).expect(200);
  const [first, second] = [randomUUID(), randomUUID()];
  await save(ana, id, 1, [rename('b', 'theirs')]).expect(200);
  const mine = [
    { id: first, role: 'edit', commands: [rename('a', 'mine')] },
    { id: second, role: 'edit', commands: [rename('b', 'mine too')] },
  ];
  const { body } = await ines.post(`/api/sequences/${id}/commands`).send({ base: 1, edits: mine }).expect(200);
  expect((body as SaveAnswer).aside.map((a) => a.id)).toEqual([second]);
  expect(namesOf(await read(id))).toEqual(['theirs', 'mine']);
  // The answer was lost: sent again, it is the same.
  const again = await ines.post(`/api/sequences/${id}/commands`).send({ base: 1, edits: mine }).expect(200);
  expect(again.body).toEqual(body);
});

test('whoever edits inside of what another takes away: neither is lost, whichever comes first', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  await save(ana, id, 1, [rename('a', 'hers')]).expect(200);
  const { body } = await save(ines, id, 1, [{ type: 'step.remove', step: 'step-a' }]).expect(200);
  expect((body as SaveAnswer).aside[0]?.why).toBe('ana@foldwell.example changed the same place.');
  await save(ines, id, 2, [{ type: 'step.remove', step: 'step-a' }]).expect(200);
  const late = await save(ana, id, 2, [rename('a', 'hers again')]).expect(200);
  expect((late.body as SaveAnswer).aside[0]?.why).toBe('Inês Rocha took its place away.');
  // Taken away by both: nothing is left to do, and nothing to decide.
  const both = await save(ana, id, 2, [{ type: 'step.remove', step: 'step-a' }]).expect(200);
  expect(both.body).toMatchObject({ aside: [], moot: [expect.any(String)], revision: 3 });
});

test('who else has it open, where, and what they saved meanwhile', async () => {
  const id = await begin();
  const here = async (who: Agent, step: string | null, revision: number, tab = randomUUID()) =>
    (await who.post(`/api/sequences/${id}/here`).send({ tab, step, revision }).expect(200)).body as HereAnswer;
  expect(await here(ines, null, 0)).toEqual({ others: [], edits: [], unpublished: null, liveVersion: null });
  await save(ines, id, 0, [insert('a')]).expect(200);
  expect(await here(ana, 'step-a', 0)).toMatchObject({
    others: [{ name: 'Inês Rocha', step: null }],
    edits: [{ revision: 1, by: 'Inês Rocha', mine: false }],
    unpublished: true,
  });
  expect((await here(ines, 'step-a', 1)).others).toEqual([{ name: 'ana@foldwell.example', step: 'step-a' }]);
});

test('an edit that is sent again, since its answer was lost, counts once and is answered as the first time', async () => {
  const id = await begin();
  const edit = randomUUID();
  const first = await save(ines, id, 0, [insert('a')], { id: edit }).expect(200);
  await save(ana, id, 1, [insert('b')]).expect(200);
  const again = await save(ines, id, 0, [insert('a')], { id: edit }).expect(200);
  expect((again.body as SaveAnswer).edits[0]).toEqual((first.body as SaveAnswer).edits[0]);
  expect(again.body.revision).toBe(2);
  expect(namesOf(await read(id))).toEqual(['b', 'a']);
  // In another sequence the same id is another edit.
  await save(ines, await begin(), 0, [insert('a')], { id: edit }).expect(200);
});

test('the same edit many times at once counts once; many edits at once all count', async () => {
  const id = await begin();
  const edit = randomUUID();
  const same = await Promise.all(Array.from({ length: 6 }, () => save(ines, id, 0, [insert('a')], { id: edit })));
  expect(same.map((a) => a.status)).toEqual([200, 200, 200, 200, 200, 200]);
  const letters = [...'bcdefghij'];
  const others = await Promise.all(letters.map((l, i) => save(i % 2 ? ines : ana, id, 1, [insert(l)])));
  expect(new Set(others.map((a) => (a.body as Body).revision)).size).toBe(letters.length);
  const now = await read(id);
  expect(now.revision).toBe(1 + letters.length);
  expect(namesOf(now).sort()).toEqual(['a', ...letters]);
});

test('undo lives through a reload: the log gives back what each edit was, newest last', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  await save(ines, id, 1, [rename('a', 'A')]).expect(200);
  const { undo } = stacksOf((await read(id)).log);
  await save(ines, id, 2, undo.at(-1)?.commands ?? [], { role: 'undo' }).expect(200);
  const after = await read(id);
  expect(namesOf(after)).toEqual(['a']);
  const stacks = stacksOf(after.log);
  expect([stacks.undo.length, stacks.redo.length]).toEqual([1, 1]);
  expect(applyCommands(after.draft, stacks.redo.at(-1)?.commands ?? []).doc.steps).toMatchObject([{ name: 'A' }]);
});

test('an edit that does not fit names what is wrong, and leaves the draft as it was', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  const before = await read(id);
  const wrong: [object, number, RegExp][] = [
    [{ base: 1, edits: [] }, 422, /edits/],
    [{ base: 1, edits: [{ role: 'edit', commands: [] }] }, 422, /commands/],
    [{ base: 1, edits: [{ role: 'edit', commands: [{ type: 'step.remove', step: 'nobody' }] }] }, 422, /no longer/],
    [{ base: 1, edits: [{ role: 'edit', commands: [insert('a')], id: 'mine' }] }, 422, /id/],
    [{ base: -1, edits: [{ role: 'edit', commands: [insert('b')] }] }, 422, /base/],
    [{ base: 1, edits: [{ role: 'magic', commands: [insert('b')] }] }, 422, /role/],
  ];
  for (const [body, status, words] of wrong) {
    const answer = await ines.post(`/api/sequences/${id}/commands`).send(body);
    expect([answer.status, JSON.stringify(body)]).toEqual([status, JSON.stringify(body)]);
    expect(answer.body.error.message).toMatch(words);
  }
  expect(await read(id)).toEqual(before);
});
