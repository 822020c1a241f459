import { randomUUID } from 'node:crypto';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { applyCommands, undoStacks, type Command, type LogEntry, type Sequence } from '@ascenso/core';
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
  log: LogEntry[];
}
const begin = async () => (await ines.post('/api/sequences').send({ name: 'Together' }).expect(200)).body.id as string;
const read = async (id: string) => (await ines.get(`/api/sequences/${id}`).expect(200)).body as Body;
const save = (who: Agent, id: string, base: number, commands: Command[], more: object = {}) =>
  who.post(`/api/sequences/${id}/commands`).send({ base, role: 'edit', commands, ...more });
const namesOf = ({ draft }: Body) => draft.steps.map((s) => 'name' in s && s.name);

test('edits on an older revision go on top of what came since', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a'), insert('b')]).expect(200);
  await save(ines, id, 1, [rename('a', 'A')]).expect(200);
  const { body } = await save(ana, id, 1, [rename('b', 'B')]).expect(200);
  expect(body.revision).toBe(3);
  expect(namesOf(await read(id))).toEqual(['B', 'A']);
});

test('two who change the same place: the second is told who did, and changes nothing', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  await save(ines, id, 1, [rename('a', 'hers')]).expect(200);
  const before = await read(id);
  const { body } = await save(ana, id, 1, [insert('c'), rename('a', 'mine')]).expect(409);
  expect(body.error.message).toBe(
    'Inês Rocha changed the same place a moment ago. Your edit was not saved; theirs is shown now.',
  );
  expect(await read(id)).toEqual(before);
});

test('an edit that is sent again, since its answer was lost, counts once and is answered as the first time', async () => {
  const id = await begin();
  const edit = randomUUID();
  const first = await save(ines, id, 0, [insert('a')], { edit }).expect(200);
  await save(ana, id, 1, [insert('b')]).expect(200);
  const again = await save(ines, id, 0, [insert('a')], { edit }).expect(200);
  expect(again.body.inverses).toEqual(first.body.inverses);
  expect(again.body.revision).toBe(2);
  expect(namesOf(await read(id))).toEqual(['b', 'a']);
  // In another sequence the same id is another edit.
  await save(ines, await begin(), 0, [insert('a')], { edit }).expect(200);
});

test('the same edit many times at once counts once; many edits at once all count', async () => {
  const id = await begin();
  const edit = randomUUID();
  const same = await Promise.all(Array.from({ length: 6 }, () => save(ines, id, 0, [insert('a')], { edit })));
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
  const { undo } = undoStacks((await read(id)).log);
  await save(ines, id, 2, undo.at(-1) as Command[], { role: 'undo' }).expect(200);
  const after = await read(id);
  expect(namesOf(after)).toEqual(['a']);
  const stacks = undoStacks(after.log);
  expect([stacks.undo.length, stacks.redo.length]).toEqual([1, 1]);
  expect(applyCommands(after.draft, stacks.redo.at(-1) as Command[]).doc.steps).toMatchObject([{ name: 'A' }]);
});

test('an edit that does not fit names what is wrong, and leaves the draft as it was', async () => {
  const id = await begin();
  await save(ines, id, 0, [insert('a')]).expect(200);
  const before = await read(id);
  const wrong: [object, number, RegExp][] = [
    [{ base: 1, role: 'edit', commands: [] }, 422, /commands/],
    [{ base: 1, role: 'edit', commands: [{ type: 'step.remove', step: 'nobody' }] }, 422, /./],
    [{ base: 1, role: 'edit', commands: [insert('a')], edit: 'mine' }, 422, /edit/],
    [{ base: -1, role: 'edit', commands: [insert('b')] }, 422, /base/],
    [{ base: 1, role: 'magic', commands: [insert('b')] }, 422, /role/],
  ];
  for (const [body, status, words] of wrong) {
    const answer = await ines.post(`/api/sequences/${id}/commands`).send(body);
    expect([answer.status, JSON.stringify(body)]).toEqual([status, JSON.stringify(body)]);
    expect(answer.body.error.message).toMatch(words);
  }
  expect(await read(id)).toEqual(before);
});
