import { agent } from 'supertest';
import { afterEach, beforeAll, expect, test, vi } from 'vitest';
import type { PeopleAnswer, Surroundings } from '@ascenso/contracts';
import { countsBeyond } from '../src/app/kept.ts';
import { owner, useWorld } from './support/world.ts';

const world = useWorld();
let small: ReturnType<typeof agent>;
let large: ReturnType<typeof agent>;
afterEach(() => void vi.restoreAllMocks());
beforeAll(async () => {
  await world.join('marta@readers.example');
  await world.connection.pool.query('analyze people');
  const begin = async (beyond: number) => {
    const who = agent(world.serve({ counts: countsBeyond(beyond, world.connection.db) }));
    await who.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    return who;
  };
  small = await begin(1000);
  large = await begin(0);
});
const later = (ms: number) => {
  const now = Date.now();
  vi.spyOn(Date, 'now').mockReturnValue(now + ms);
};
const total = ({ body }: { body: unknown }) => (body as PeopleAnswer).total;

test('where many people are, a count of half a minute ago is one of now; what one edits is of now in any case', async () => {
  const first = await large.get('/api/people').expect(200);
  await world.join('jonas@readers.example');
  await large.post('/api/senders').send({ name: 'Rui', email: 'rui@foldwell.example', fields: {} }).expect(200);
  later(20_000);
  const second = await large.get('/api/people').expect(200);
  expect(total(second)).toBe(total(first));
  expect(second.headers).not.toHaveProperty('age');
  // The page itself is of now, and so are names.
  expect((second.body as PeopleAnswer).people.map((p) => p.email)).toContain('jonas@readers.example');
  const around = (await large.get('/api/surroundings').expect(200)).body as Surroundings;
  expect(around.senders.map((s) => s.name)).toContain('Rui');
  later(31_000);
  expect(total(await large.get('/api/people').expect(200))).toBe(total(first) + 1);
});

test('what takes longer to count is given older than that, and then its age is told', async () => {
  const first = await large.get('/api/results').expect(200);
  expect(first.headers).not.toHaveProperty('age');
  later(29_000);
  expect((await large.get('/api/results').expect(200)).headers).not.toHaveProperty('age');
  later(40_000);
  expect((await large.get('/api/results').expect(200)).headers.age).toBe('69');
});

test('a question that failed once is asked again, and no answer is lost to it for a minute', async () => {
  let away = true;
  const { db } = world.connection;
  const flaky = new Proxy(db, {
    get: (target, name) => {
      if (name === 'execute' && away) return () => Promise.reject(new Error('away'));
      const value: unknown = Reflect.get(target, name);
      return typeof value === 'function' ? (value.bind(target) as unknown) : value;
    },
  });
  const counts = countsBeyond(0, flaky);
  const count = () => counts.get('a', () => Promise.resolve(1));
  await expect(count()).rejects.toThrow('away');
  away = false;
  expect((await count()).answer).toBe(1);
});

test('in a small house everything is counted when it is asked for', async () => {
  const first = await small.get('/api/people').expect(200);
  await world.join('ana@readers.example');
  later(20_000);
  const second = await small.get('/api/people').expect(200);
  expect(total(second)).toBe(total(first) + 1);
  expect(second.headers).not.toHaveProperty('age');
});
