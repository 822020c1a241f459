import { randomUUID } from 'node:crypto';
import { addressFault } from '@ascenso/core';
import { sql } from 'drizzle-orm';
import { simpleParser } from 'mailparser';
import request, { agent as agentOf } from 'supertest';
import { beforeAll, describe, expect, test } from 'vitest';
import { firstRow, rows } from '../src/db/rows.ts';
import { sha256 } from '../src/app/hash.ts';
import { addressesFor } from '../src/engine/message.ts';
import { readSend, signSend } from '../src/mail/token.ts';
import { emailStep, FRIDAY_NOON, owner, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const HOUR = 3_600_000;

describe('signing in', () => {
  const signIn = (email: string, password: string) => request(world.app).post('/api/session').send({ email, password });

  test('the session’s cookie cannot be read by scripts or sent along from other sites, and its token is kept as a hash', async () => {
    const answer = await signIn(owner.email, owner.password).expect(200);
    const cookie = String(answer.headers['set-cookie']);
    expect(cookie).toMatch(/; HttpOnly/);
    expect(cookie).toMatch(/; SameSite=Strict/);
    const token = /ascenso_session=([^;]+)/.exec(cookie)?.[1] as string;
    const kept = await rows(world.connection.db, sql`select 1 from web_sessions where token_hash = ${token}`);
    expect(kept).toEqual([]);
    const user = await firstRow<{ password_hash: string }>(
      world.connection.db,
      sql`select password_hash from users where email = ${owner.email}`,
    );
    expect(user?.password_hash).toMatch(/^\$argon2id\$/);
    const key = await firstRow<{ hash: string }>(world.connection.db, sql`select hash from api_keys limit 1`);
    expect(key?.hash).not.toContain(world.key);
  });

  test('a wrong password and an unknown address are told in the same words', async () => {
    const wrong = await signIn(owner.email, 'nope').expect(401);
    const unknown = await signIn('nobody@foldwell.example', 'nope').expect(401);
    expect(wrong.body).toEqual(unknown.body);
  });

  test('a change from another site is refused, whatever its browser says of where it comes from', async () => {
    const own = agentOf(world.app);
    await own.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    for (const [header, value] of [
      ['Sec-Fetch-Site', 'cross-site'],
      ['Sec-Fetch-Site', 'same-site'],
      ['Sec-Fetch-Site', 'none'],
      ['Origin', 'https://elsewhere.example'],
      ['Origin', 'null'],
    ] as const)
      await own.post('/api/lists').set(header, value).send({ name: 'Foreign' }).expect(403);
    await own.post('/api/lists').set('Sec-Fetch-Site', 'same-origin').send({ name: 'Our own' }).expect(200);
  });

  test('after signing out the cookie is worth nothing', async () => {
    const own = agentOf(world.app);
    const answer = await own.post('/api/session').send({ email: owner.email, password: owner.password });
    const cookie = String(answer.headers['set-cookie']).split(';')[0] as string;
    await own.delete('/api/session').expect(200);
    await request(world.app).get('/api/session').set('Cookie', cookie).expect(401);
  });

  test('every answer carries headers that keep pages from being framed, sniffed or fed foreign scripts', async () => {
    const { headers } = await request(world.app).get('/api/session');
    expect(headers['content-security-policy']).toMatch(/script-src 'self'/);
    expect(headers['content-security-policy']).toMatch(/frame-ancestors 'self'/);
    expect(headers['x-content-type-options']).toBe('nosniff');
    expect(headers['x-powered-by']).toBeUndefined();
  });

  // Last: it locks this address out for a quarter of an hour.
  test('after twenty wrong tries signing in is held up, also with the right password', async () => {
    let last = 0;
    for (let i = 0; i < 25 && last !== 429; i++) last = (await signIn(owner.email, `guess ${i}`)).status;
    expect(last).toBe(429);
    await signIn(owner.email, owner.password).expect(429);
  });
});

describe('what a reader’s mail program calls', () => {
  let html = '';
  let unsubscribe = '';
  const step = emailStep('Guide delivery');
  const local = (address: string) => address.replace(world.sending.base, '').replaceAll('&amp;', '&');

  beforeAll(async () => {
    await world.live({ name: 'Doors', steps: [step, waitStep(1), emailStep('Three papers')] });
    await world.join('marta@readers.example', { attributes: { first_name: 'Marta' } });
    await world.ahead(FRIDAY_NOON);
    const mail = await simpleParser(world.mailbox.store.source(world.mailbox.store.summaries[0] as never));
    html = String(mail.html);
    unsubscribe = local(String((mail.headers.get('list') as { unsubscribe?: { url: string } }).unsubscribe?.url));
  });

  /** What a person gets: nothing of this may change by a GET. */
  const standing = async () => ({
    person: await firstRow(
      world.connection.db,
      sql`select to_jsonb(p) as row from people p where email = 'marta@readers.example'`,
    ),
    memberships: await rows(world.connection.db, sql`select to_jsonb(m) as row from memberships m order by 1`),
    visits: await rows(world.connection.db, sql`select id, status, step, due_at from visits order by id`),
    left: await rows(world.connection.db, sql`select id from sends where left_at is not null`),
  });

  test('GET of every address in a message, by whatever scanner, changes nothing of what the person gets (RFC 8058, 3.2)', async () => {
    const addresses = new Set([...html.matchAll(/(?:href|src)="([^"]+)"/g)].map((m) => local(m[1] as string)));
    addresses.add(unsubscribe);
    const own = [...addresses].filter((a) => a.startsWith('/'));
    // The pixel, the button, the page and the header's address for unsubscribing.
    expect(own.length).toBeGreaterThanOrEqual(3);
    expect(own.some((a) => a.startsWith('/u/'))).toBe(true);
    const before = await standing();
    for (const address of own) {
      await request(world.app).get(address);
      await request(world.app).head(address);
      await request(world.app).get(`${address}?List-Unsubscribe=One-Click`);
    }
    expect(await standing()).toEqual(before);
  });

  test('an opening that a mail program fetched ahead is kept and flagged, and does not count', async () => {
    const pixel = local(/src="([^"]+\/o\/[^"]+)"/.exec(html)?.[1] as string);
    await world.connection.db.execute(sql`update sends set opened_at = null, clicked_at = null`);
    await request(world.app).get(pixel).set('Sec-Purpose', 'prefetch').expect(200);
    await request(world.app).get(pixel).set('User-Agent', 'Mozilla/5.0').expect(200);
    const send = await firstRow<{ opened_at: number | null }>(world.connection.db, sql`select opened_at from sends`);
    expect(send?.opened_at).toBeNull();
    await request(world.app)
      .get(pixel)
      .set('User-Agent', 'Mozilla/5.0 (Windows NT 5.1) (via ggpht.com GoogleImageProxy)')
      .expect(200);
    expect(
      (await firstRow<{ opened_at: number }>(world.connection.db, sql`select opened_at from sends`))?.opened_at,
    ).toBe(await world.now());
  });

  test('no open redirect: a link leads where the email said when it was sent, and nowhere else', async () => {
    const link = local(/href="([^"]+\/c\/[^"]+)"/.exec(html)?.[1] as string);
    await request(world.app)
      .get(`${link}?url=https://elsewhere.example&to=//elsewhere.example`)
      .expect('Location', 'https://foldwell.example/kits');
    for (const bad of [
      link.replace(/\/\d+$/, '/99'),
      link.replace(/\/\d+$/, '/-1'),
      link.replace(/\/\d+$/, '/https:%2F%2Felsewhere.example'),
    ])
      await request(world.app).get(bad).expect(404);
    // One letter of the signature changed: the address is nobody's.
    const forged = link.replace(/\/c\/(.)/, (_m, c: string) => `/c/${c === 'A' ? 'B' : 'A'}`);
    await request(world.app).get(forged).expect(404);
    await request(world.app)
      .post(forged.replace('/c/', '/u/').replace(/\/\d+$/, ''))
      .type('form')
      .send('List-Unsubscribe=One-Click')
      .expect(404);
  });

  test('one POST with the words of RFC 8058 unsubscribes, once and for all mail but service mail', async () => {
    await request(world.app).post(unsubscribe).type('form').send('List-Unsubscribe=One-Click').expect(200);
    await request(world.app).post(unsubscribe).type('form').send('List-Unsubscribe=One-Click').expect(200);
    const person = await world.person('marta@readers.example');
    expect(person?.mail_status).toBe('unsubscribed');
    await world.live({
      name: 'Repair finished',
      list: null,
      triggers: [{ kind: 'event', event: 'repair.finished', where: [] }],
      steps: [emailStep('Your book is ready')],
    });
    await world.event({ type: 'repair.finished', subject: 'marta@readers.example' }).expect(202);
    await world.ahead(FRIDAY_NOON + 30 * HOUR);
    expect(world.mail().map((m) => m.subject)).toEqual(['Guide delivery', 'Your book is ready']);
  });
});

test('a file behind a button is fetched through the tracking door, handed out as itself, and counted by person', async () => {
  const { db } = world.connection;
  const own = agentOf(world.app);
  // The sign-in of these tests is locked by now: a session made by hand will do.
  const user = await firstRow<{ id: string }>(db, sql`select id from users where email = ${owner.email}`);
  await db.execute(
    sql`insert into web_sessions (token_hash, user_id, workspace_id, expires_at) values (${sha256('by-hand')}, ${user?.id}, ${world.ws}, ${Date.now() + 60_000})`,
  );
  own.set('Cookie', 'ascenso_session=by-hand');
  const guide = Buffer.from('%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>\n%%EOF');
  const { body } = await own.post('/api/files').attach('file', guide, 'Five stitches.pdf').expect(200);
  await own.post('/api/files').attach('file', Buffer.from('<script>alert(1)</script>'), 'guide.pdf').expect(422);
  await world.live({
    name: 'Guide',
    list: null,
    triggers: [{ kind: 'event', event: 'guide.asked', where: [] }],
    steps: [emailStep('Your guide', { address: `file:${body.id}` })],
  });
  await world.event({ type: 'guide.asked', subject: 'paula@readers.example' }).expect(202);
  await world.ahead(await world.now());
  const mail = await simpleParser(world.mailbox.store.source(world.mailbox.store.summaries.at(-1) as never));
  const link = /href="([^"]+\/c\/[^"]+)"/.exec(String(mail.html))?.[1]?.replace(world.sending.base, '') as string;
  for (let i = 0; i < 2; i++) {
    const { headers } = await request(world.app).get(link).expect(302);
    const file = await request(world.app).get(String(headers.location)).expect(200);
    expect(file.headers['content-type']).toMatch(/^application\/pdf/);
    expect(file.headers['content-disposition']).toBe('attachment; filename="Five stitches.pdf"');
    expect(Buffer.compare(file.body as Buffer, guide)).toBe(0);
  }
  const around = await own.get('/api/surroundings').expect(200);
  expect(around.body.files).toMatchObject([{ name: 'Five stitches.pdf', downloads: 1 }]);
  expect((await world.trace('paula@readers.example')).length).toBeGreaterThan(0);
});

test('a token is bound to its secret, its send and its door', () => {
  const key = { workspaceId: '01a212d8-a4c0-77ac-a941-16891209012e', sendId: '01a212d8-a4c0-77ac-a941-16891209012f' };
  const token = signSend('secret', key, 'o');
  expect(readSend('secret', token, 'o')).toEqual(key);
  expect(readSend('other', token, 'o')).toBeNull();
  // And to its door: a picture's address, which proxies and whoever it is forwarded to know, lets nobody unsubscribe.
  for (const door of ['c', 'u', 't'] as const) expect(readSend('secret', token, door)).toBeNull();
  for (let i = 0; i < token.length; i++) {
    const changed = token.slice(0, i) + (token[i] === 'x' ? 'y' : 'x') + token.slice(i + 1);
    // The last character of base64url may hold bits that mean nothing.
    if (i < token.length - 1) expect(readSend('secret', changed, 'o')).toBeNull();
  }
});

test('an address out of somebody’s email is known by its shape: the check of links finds every one that is made', () => {
  for (let i = 0; i < 50; i++) {
    const key = { workspaceId: randomUUID(), sendId: randomUUID() };
    const { open, unsubscribe, link, timer } = addressesFor('https://letters.foldwell.example', (door) =>
      signSend('secret', key, door),
    );
    for (const address of [open, unsubscribe, link('0', ''), timer(3)])
      expect(addressFault(address, [])?.message).toContain('copied from an email to one person');
  }
});
