import { sql } from 'drizzle-orm';
import request, { agent, type Agent } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { rows } from '../src/db/rows.ts';
import { owner, useWorld } from './support/world.ts';

const world = useWorld();
const signIn = async (email: string, password: string, browser = 'Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0') => {
  const own = agent(world.app);
  const answer = await own.post('/api/session').set('User-Agent', browser).send({ email, password });
  return { own, status: answer.status };
};
const NEXT = 'seven threads, waxed';
let ines: Agent;
let elsewhere: Agent;
beforeAll(async () => {
  ines = (await signIn(owner.email, owner.password)).own;
  elsewhere = (await signIn(owner.email, owner.password, 'Mozilla/5.0 (iPhone) Safari/605')).own;
  await world.addUser('adaeze@foldwell.example', 'reviewer');
});

describe('sessions', () => {
  interface Row {
    id: string;
    agent: string;
    current: boolean;
  }
  const seen = async (who: Agent) => (await who.get('/api/account/sessions').expect(200)).body.sessions as Row[];

  test('one’s own are listed, the one that asks told apart, and nobody else’s', async () => {
    const adaeze = (await signIn('adaeze@foldwell.example', owner.password)).own;
    const all = await seen(ines);
    expect(all.map((s) => [s.current, s.agent])).toEqual(
      expect.arrayContaining([
        [true, expect.stringContaining('Firefox')],
        [false, expect.stringContaining('iPhone')],
      ]),
    );
    expect(all).toHaveLength(2);
    const [hers] = await seen(adaeze);
    expect(await seen(adaeze)).toHaveLength(1);
    await ines.delete(`/api/account/sessions/${hers?.id}`).expect(404);
    await adaeze.get('/api/session').expect(200);
  });

  test('one is ended from another, at once', async () => {
    const other = (await seen(ines)).find((s) => !s.current);
    await ines.delete(`/api/account/sessions/${other?.id}`).expect(200);
    await elsewhere.get('/api/session').expect(401);
    await ines.get('/api/session').expect(200);
  });

  test('expired ones are gone at the next sign-in, and good for nothing before', async () => {
    const { db } = world.connection;
    const old = (await signIn(owner.email, owner.password, 'old')).own;
    await db.execute(sql`update web_sessions set expires_at = ${Date.now() - 1} where agent = 'old'`);
    await old.get('/api/session').expect(401);
    await signIn(owner.email, owner.password);
    expect(await rows(db, sql`select 1 from web_sessions where agent = 'old'`)).toEqual([]);
  });
});

describe('another password', () => {
  test.each([
    ['not the old one', 'guess', NEXT, 'old', /not your current password/],
    ['a short one', owner.password, 'fourteen chars', 'next', /15 characters at least/],
    ['the same one', owner.password, owner.password, 'next', /the password you have/],
  ])('%s is refused by its field', async (_what, old, next, field, words) => {
    const answer = await ines.put('/api/account/password').send({ old, next }).expect(422);
    expect(answer.body.error).toMatchObject({ field, message: expect.stringMatching(words) });
    expect((await signIn(owner.email, owner.password)).status).toBe(200);
  });

  test('is good from then on, the old one for nothing, and every other session is over', async () => {
    const other = (await signIn(owner.email, owner.password)).own;
    await ines.put('/api/account/password').send({ old: owner.password, next: NEXT }).expect(200);
    await ines.get('/api/session').expect(200);
    await other.get('/api/session').expect(401);
    expect((await signIn(owner.email, owner.password)).status).toBe(401);
    expect((await signIn(owner.email, NEXT)).status).toBe(200);
  });

  test('may be tried five times a minute', async () => {
    const adaeze = (await signIn('adaeze@foldwell.example', owner.password)).own;
    const attempt = () => adaeze.put('/api/account/password').send({ old: 'guess', next: NEXT });
    const statuses = [];
    for (let i = 0; i < 6; i++) statuses.push((await attempt()).status);
    expect(statuses).toEqual([422, 422, 422, 422, 422, 429]);
  });
});

describe('under an https address', () => {
  const answersOf = async (base: string) => {
    const app = world.serve({ sending: { ...world.sending, base } });
    const answer = await request(app)
      .post('/api/session')
      .send({ email: 'adaeze@foldwell.example', password: owner.password })
      .expect(200);
    return { cookie: String(answer.headers['set-cookie']), hsts: answer.headers['strict-transport-security'] };
  };
  test('the cookie travels over https only, and the browser stays there', async () => {
    const { cookie, hsts } = await answersOf('https://mail.foldwell.example');
    expect(cookie).toMatch(/^ascenso_session=[\w-]{43};.*HttpOnly; Secure; SameSite=Strict$/);
    expect(hsts).toBe('max-age=31536000');
  });
  test('neither on loopback, which has no certificate', async () => {
    const { cookie, hsts } = await answersOf('http://127.0.0.1:4310');
    expect(cookie).not.toContain('Secure');
    expect(hsts).toBeUndefined();
  });
});
