import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { aroundParts, surroundingParts } from '@ascenso/contracts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const ask = async (parts?: string) =>
  (await agent.get(`/api/surroundings${parts === undefined ? '' : `?parts=${parts}`}`).expect(200)).body as Record<
    string,
    unknown
  >;

test('what drafts refer to comes in the parts that are asked for, each as it is in the whole', async () => {
  await world.live({ name: 'Letters of spring', steps: [{ ...emailStep('Buds'), id: 'buds' }] });
  const whole = await ask();
  expect(Object.keys(whole).sort()).toEqual([...surroundingParts].sort());
  for (const part of surroundingParts) expect(await ask(part)).toEqual({ [part]: whole[part] });
  expect(Object.keys(await ask('tags,lists')).sort()).toEqual(['lists', 'tags']);
});

test('the names alone hold those of emails too', async () => {
  const { named } = (await ask('named')) as { named: Record<string, { id: string; name: string }[]> };
  const letters = named.sequences?.find((s) => s.name === 'Letters of spring');
  expect(named.emails).toContainEqual(expect.objectContaining({ id: `${letters?.id}/buds`, name: 'Buds' }));
});

test.each(['nonsense', 'lists,', 'lists,nonsense'])(
  '“%s” is refused, and the parts that there are are named',
  async (parts) => {
    const { body } = await agent.get(`/api/surroundings?parts=${parts}`).expect(422);
    expect(body).toMatchObject({
      error: { code: 'invalid', message: expect.stringContaining(aroundParts.join(', ')) },
    });
  },
);
