import { agent } from 'supertest';
import { expect, test } from 'vitest';
import { Guesses } from '../src/app/guesses.ts';
import { owner, useWorld } from './support/world.ts';

// One account guessed from many networks: the guessing is slow, and its owner comes in.
const world = useWorld();
const stranger = { headers: {} } as never;

test('after twenty wrong passwords a try waits, five of them at once; another account does not', async () => {
  const waiting: (() => void)[] = [];
  const guesses = new Guesses('secret', () => new Promise((done) => waiting.push(() => done(undefined))));
  for (let i = 0; i < 19; i++) guesses.wrong('ines@foldwell.example');
  await guesses.slow('ines@foldwell.example', stranger);
  guesses.wrong('ines@foldwell.example');
  const slowed = Array.from({ length: 5 }, () => guesses.slow('ines@foldwell.example', stranger));
  expect(waiting).toHaveLength(5);
  await expect(guesses.slow('ines@foldwell.example', stranger)).rejects.toMatchObject({ status: 429 });
  await guesses.slow('tomasz@foldwell.example', stranger);
  // One that is through, and wrong, makes room for one more.
  waiting.shift()?.();
  await slowed[0];
  guesses.wrong('ines@foldwell.example');
  const next = guesses.slow('ines@foldwell.example', stranger);
  await expect(guesses.slow('ines@foldwell.example', stranger)).rejects.toMatchObject({ status: 429 });
  waiting.splice(0).forEach((go) => go());
  await Promise.all([...slowed, next]);
});

test('a browser that has signed in before goes on at once, with a mark that nobody can make up or use for another account', async () => {
  const own = agent(world.app);
  const answer = await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  const cookies = ([answer.headers['set-cookie']].flat() as string[]).map((c) => c.split(';')[0] ?? '');
  expect(cookies.map((c) => c.split('=')[0])).toEqual(['ascenso_session', 'ascenso_known']);
  const guesses = new Guesses(world.sending.secret, () => Promise.reject(new Error('It waits.')));
  for (const account of [owner.email, 'tomasz@foldwell.example']) for (let i = 0; i < 30; i++) guesses.wrong(account);
  const with_ = (cookie: string) => ({ headers: { cookie } }) as never;
  await guesses.slow(owner.email, with_(cookies.join('; ')));
  await expect(guesses.slow('tomasz@foldwell.example', with_(cookies.join('; ')))).rejects.toThrow('It waits.');
  const forged = (cookies[1] ?? '').replace(/.$/, (c) => (c === 'A' ? 'B' : 'A'));
  await expect(
    guesses.slow(owner.email, with_(forged.replace(/=./, (c) => (c === '=A' ? '=B' : '=A')))),
  ).rejects.toThrow('It waits.');
  await expect(guesses.slow(owner.email, stranger)).rejects.toThrow('It waits.');
});
