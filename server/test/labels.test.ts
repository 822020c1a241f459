import { sql } from 'drizzle-orm';
import request from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import type { LabelRow } from '@ascenso/contracts';
import { newId } from '../src/app/ids.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
const labels = async () => ((await agent.get('/api/labels').expect(200)).body as { labels: LabelRow[] }).labels;
const put = (label: string, kind: string, thing: string, on = true) =>
  agent.put(`/api/labels/${label}/things`).send({ kind, thing, on });

test('a label is on things of several kinds, comes off, is renamed, and comes back with what had it', async () => {
  const sequence = await world.live({ name: 'Spring welcome', steps: [emailStep('Hello')] });
  const offer = newId();
  await world.connection.db.execute(
    sql`insert into offers (workspace_id, id, doc, secret, created_at) values (${world.ws}, ${offer}, '{}', 'x', 0)`,
  );
  const { id } = (await agent.post('/api/labels').send({ name: ' Spring ' }).expect(200)).body as { id: string };
  await put(id, 'sequence', sequence).expect(200);
  await put(id, 'sequence', sequence).expect(200);
  await put(id, 'offer', offer).expect(200);
  await put(id, 'list', world.list).expect(200);
  await put(id, 'list', world.list, false).expect(200);
  const things = [
    { kind: 'offer', id: offer },
    { kind: 'sequence', id: sequence },
  ];
  expect(await labels()).toEqual([{ id, name: 'Spring', things }]);

  const twice = await agent.post('/api/labels').send({ name: 'SPRING' });
  expect(twice.status).toBe(409);
  expect(twice.body.error).toMatchObject({ field: 'name', message: 'There is already a label “SPRING”.' });
  await agent.patch(`/api/labels/${id}`).send({ name: 'spring' }).expect(200);
  // What is not there gets no label, and no label that is not there is put on anything.
  await put(id, 'template', sequence).expect(404);
  await put(newId(), 'sequence', sequence).expect(404);
  await agent.post('/api/labels').send({ name: '' }).expect(422);

  const { undo } = (await agent.delete(`/api/labels/${id}`).expect(200)).body as { undo: string };
  expect(await labels()).toEqual([]);
  await agent.post(`/api/bin/${undo}`).send({}).expect(200);
  expect(await labels()).toEqual([{ id, name: 'spring', things }]);
  await world.connection.db.execute(sql`delete from offers where id = ${offer}`);
  expect((await labels())[0]?.things).toEqual([{ kind: 'sequence', id: sequence }]);
});
