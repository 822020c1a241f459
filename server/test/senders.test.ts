import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { EmailSender, SequenceAnswer } from '@ascenso/contracts';
import { emailSteps } from '@ascenso/core';
import { newId } from '../src/app/ids.ts';
import { branchStep, emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const sequence = async (id: string) => (await agent.get(`/api/sequences/${id}`).expect(200)).body as SequenceAnswer;
const fromOf = async (id: string) => emailSteps((await sequence(id)).draft).map((s) => [s.name, s.email.sender]);

test('a sender is exchanged in the emails that were chosen, in all drafts at once, and each draft takes it back', async () => {
  const { id: tomasz } = (
    await agent.post('/api/senders').send({ name: 'Tomasz', email: 'tomasz@foldwell.example', fields: {} }).expect(200)
  ).body as { id: string };
  const [a, b, c] = [emailStep('One'), emailStep('Two'), emailStep('Three')];
  const course = await world.live({ name: 'Course', steps: [a, branchStep([null, [b]], [null, []])] });
  const news = await world.live({ name: 'News', steps: [c] });
  const { emails } = (await agent.get('/api/senders/emails').expect(200)).body as { emails: EmailSender[] };
  expect(emails.map((e) => [e.sequence.name, e.name, e.sender, e.sequence.live])).toEqual([
    ['Course', 'One', '', true],
    ['Course', 'Two', '', true],
    ['News', 'Three', '', true],
  ]);
  const put = (body: object) => agent.put('/api/senders/emails').send(body);
  const those = [
    { sequence: course, step: b.id },
    { sequence: news, step: c.id },
  ];
  await put({ sender: tomasz, emails: those }).expect(200);
  expect(await fromOf(course)).toEqual([
    ['One', ''],
    ['Two', tomasz],
  ]);
  expect(await fromOf(news)).toEqual([['Three', tomasz]]);
  // One edit of the draft, its author's to take back; what is live stays until it is published.
  const { log, unpublished } = await sequence(course);
  expect(log.map((s) => [s.mine, s.commands])).toEqual([
    [true, [{ type: 'email.set', step: b.id, field: 'sender', value: tomasz }]],
  ]);
  expect(unpublished).toBe(true);

  // All of them or none: one that is gone leaves the others as they are.
  for (const wrong of [
    { sender: newId(), emails: those },
    { sender: '', emails: [...those, { sequence: newId(), step: c.id }] },
    { sender: '', emails: [those[0], { sequence: news, step: 'gone' }] },
    { sender: '', emails: [] },
  ])
    expect((await put(wrong)).status).toBe(422);
  expect(await fromOf(news)).toEqual([['Three', tomasz]]);
  expect(await fromOf(course)).toContainEqual(['Two', tomasz]);
});
