import { agent } from 'supertest';
import { expect, test } from 'vitest';
import type { Looks } from '@ascenso/contracts';
import { blankStep, DAY, type Condition, type Step } from '@ascenso/core';
import { branchStep, emailStep, owner, testId, useWorld } from './support/world.ts';

// A wait that nobody meets is a fault that no check of a draft can see: it shows once people have come by.
const world = useWorld();
const until = (condition: Condition): Step => {
  const step = blankStep('until', testId) as Step & { kind: 'until' };
  return Object.assign(step, { condition, amount: 2, unit: 'days' });
};
const tag = (name: string): Condition => ({ kind: 'tag', tag: name, has: true });

test('an arm that nobody of twenty has met in two weeks is told with its place; a lot, “otherwise”, and fewer people are not', async () => {
  const ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const unmet = async () => ((await ines.get('/api/sequences').expect(200)).body as { looks: Looks }).looks.unmet;
  const wait = until(tag('never'));
  const fork = branchStep([tag('nobody'), [emailStep('Some')]], [null, [emailStep('Others')]]);
  const sequence = await world.live({ name: 'Course', steps: [emailStep('One'), wait, fork, emailStep('Two')] });
  for (let i = 0; i < 19; i++) await world.join(`unmet${i}@readers.example`);
  const now = await world.now();
  await world.ahead(now + 13 * DAY);
  expect(await unmet()).toEqual([]);
  await world.join('unmet19@readers.example');
  await world.ahead(now + 17 * DAY);
  expect(await unmet()).toEqual([
    expect.objectContaining({
      sequence: { id: sequence, name: 'Course' },
      step: wait.id,
      arm: null,
      people: 20,
      since: now,
    }),
    expect.objectContaining({ step: fork.id, arm: 'has the tag “nobody”', people: 20 }),
  ]);
  // One who meets it is enough.
  const { id } = ((await ines.get('/api/people?q=unmet0').expect(200)).body as { people: { id: string }[] })
    .people[0] as { id: string };
  await ines.patch(`/api/people/${id}`).send({ addTag: 'nobody' }).expect(200);
  await world.join('unmet20@readers.example');
  const late = ((await ines.get('/api/people?q=unmet20').expect(200)).body as { people: { id: string }[] })
    .people[0] as { id: string };
  await ines.patch(`/api/people/${late.id}`).send({ addTag: 'nobody' }).expect(200);
  await world.ahead(now + 21 * DAY);
  expect((await unmet()).map((u) => u.arm)).toEqual([null]);
});
