import { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { Me, SenderRow, Surroundings } from '@ascenso/contracts';
import { owner, useWorld } from './support/world.ts';

const world = useWorld();
let api: ReturnType<typeof agent>;
beforeAll(async () => {
  api = agent(world.app);
  await api.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const senderNamed = async (name: string): Promise<SenderRow | undefined> =>
  ((await api.get('/api/surroundings').expect(200)).body as Surroundings).senders.find((s) => s.name === name);

test('a sender is the own of whoever says so, stays it, and is given back', async () => {
  const { user } = (await api.get('/api/session').expect(200)).body as Me;
  const rui = { name: 'Rui', email: 'rui@foldwell.example', fields: { phone: '+351 210 000 002' } };
  const { id } = (await api.post('/api/senders').send(rui).expect(200)).body as { id: string };
  expect((await senderNamed('Rui'))?.user).toBeNull();
  const change = (body: object) => api.put(`/api/senders/${id}`).send({ ...rui, ...body });
  await change({ whose: 'mine' }).expect(200);
  await change({ fields: {} }).expect(200);
  expect(await senderNamed('Rui')).toMatchObject({ fields: {}, user: { id: user.id, name: user.name } });
  const refused = (await change({ whose: user.id }).expect(422)).body as { error: { field: string } };
  expect(refused.error.field).toBe('whose');
  await change({ whose: 'nobody' }).expect(200);
  expect((await senderNamed('Rui'))?.user).toBeNull();
});
