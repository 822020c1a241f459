import { sql } from 'drizzle-orm';
import request from 'supertest';
import { expect, test } from 'vitest';
import { paragraphs } from '@ascenso/core';
import { rows } from '../src/db/rows.ts';
import { emailStep, FRIDAY_NOON, owner, testId, useWorld } from './support/world.ts';

const world = useWorld();
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

test('what is deleted comes back as it was, once and for a week', async () => {
  await world.stand(FRIDAY_NOON);
  const agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const { db } = world.connection;
  const idOf = async (path: string, body: object) =>
    ((await agent.post(path).send(body).expect(200)).body as { id: string }).id;
  const made: [string, string, string][] = [
    [
      '/api/shared',
      'shared_blocks',
      await idOf('/api/shared', {
        name: 'Hours',
        blocks: [{ kind: 'text', id: testId(), doc: paragraphs('Ten to four.') }],
      }),
    ],
    [
      '/api/templates',
      'templates',
      await idOf('/api/templates', { name: 'Letter', email: emailStep('Letter').email, private: false }),
    ],
    [
      '/api/segments',
      'segments',
      await idOf('/api/segments', { name: 'Binders', rule: { kind: 'tag', tag: 'binder', has: true } }),
    ],
    [
      '/api/files',
      'files',
      ((await agent.post('/api/files').attach('file', PNG, 'dot.png').expect(200)).body as { id: string }).id,
    ],
  ];
  const all = (table: string) =>
    rows(
      db,
      sql`select to_jsonb(t) as row from ${sql.identifier(table)} t where workspace_id = ${world.ws} order by id`,
    );
  for (const [path, table, id] of made) {
    const before = await all(table);
    const { undo } = (await agent.delete(`${path}/${id}`).expect(200)).body as { undo: string };
    expect(await all(table), table).toHaveLength(before.length - 1);
    await agent.post(`/api/bin/${undo}`).send({}).expect(200);
    expect(await all(table), table).toEqual(before);
    await agent.post(`/api/bin/${undo}`).send({}).expect(404);
  }
  const [path, table, id] = made[0] as [string, string, string];
  const { undo } = (await agent.delete(`${path}/${id}`).expect(200)).body as { undo: string };
  await db.execute(sql`update bin set binned_at = now() - interval '8 days'`);
  await agent.delete(`/api/segments/${made[2]?.[2]}`).expect(200);
  await agent.post(`/api/bin/${undo}`).send({}).expect(404);
  expect(await all(table)).toEqual([]);
});
