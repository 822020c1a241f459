import { simpleParser } from 'mailparser';
import request, { agent } from 'supertest';
import { beforeAll, expect, test } from 'vitest';
import { sql } from 'drizzle-orm';
import type { SiteAnswer } from '@ascenso/contracts';
import { blankForm, DAY, HOUR } from '@ascenso/core';
import { SITE_SCRIPT } from '../src/app/site-script.ts';
import { rows } from '../src/db/rows.ts';
import { namingReader, readerToken } from '../src/people/reaching.ts';
import { emailStep, owner, useWorld } from './support/world.ts';

const world = useWorld();
let ines: ReturnType<typeof agent>;
let site: string;
beforeAll(async () => {
  ines = agent(world.app);
  await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
  await ines
    .put('/api/site')
    .send({ hosts: ['foldwell.example', 'localhost:4000'] })
    .expect(200);
  const { snippet } = (await ines.get('/api/site').expect(200)).body as SiteAnswer;
  site = /data-site="([^"]+)"/.exec(snippet)?.[1] ?? '';
});

const id = async (email: string) => (await world.person(email))?.id ?? '';
const token = async (email: string, at = Date.now()) =>
  readerToken(world.sending.secret, world.ws, await id(email), at);
const tell = (told: object) =>
  request(world.app)
    .post('/v')
    .set('Content-Type', 'text/plain')
    .send(JSON.stringify({ site, title: 'A page', ...told }));
const reached = async (email: string) =>
  (
    await rows<{ payload: Record<string, string> }>(
      world.connection.db,
      sql`select e.payload from events e join people p on p.id = e.person_id where p.email = ${email} and e.name = 'page.reached' order by e.id`,
    )
  ).map((e) => e.payload);

test('the script is under 2 kB, sets no cookie before it is handed a consent, and is served to every page', async () => {
  expect(Buffer.byteLength(SITE_SCRIPT)).toBeLessThan(2000);
  const answer = await request(world.app).get('/site.js').expect(200);
  expect(answer.headers['content-type']).toContain('javascript');
  expect(answer.headers['cross-origin-resource-policy']).toBe('cross-origin');
});

test('a page reached by somebody known is kept, without what stands behind the ?; again at once is one visit', async () => {
  await world.join('ana@x.example');
  const who = await token('ana@x.example');
  const page = 'https://shop.foldwell.example/kits/coptic?token=secret#top';
  await Promise.all([1, 2, 3].map(() => tell({ who, page }).expect(204)));
  await tell({ who, page: 'https://foldwell.example/' }).expect(204);
  expect(await reached('ana@x.example')).toEqual([
    {
      page: '/kits/coptic',
      site: 'shop.foldwell.example',
      title: 'A page',
      address: 'https://shop.foldwell.example/kits/coptic',
    },
    { page: '/', site: 'foldwell.example', title: 'A page', address: 'https://foldwell.example/' },
  ]);
  await world.ahead((await world.now()) + HOUR);
  await tell({ who, page }).expect(204);
  expect(await reached('ana@x.example')).toHaveLength(3);
});

test('who is not known, or was, is answered alike; what is not ours gets a sentence', async () => {
  await world.join('bo@x.example');
  const page = 'https://foldwell.example/';
  const who = await token('bo@x.example');
  await tell({ who: `${who}x`, page }).expect(204);
  await tell({ who: await token('bo@x.example', Date.now() - 91 * DAY), page }).expect(204);
  await tell({ who: readerToken(world.sending.secret, world.list, await id('bo@x.example'), Date.now()), page }).expect(
    204,
  );
  expect(await reached('bo@x.example')).toEqual([]);
  expect((await tell({ who, page: 'https://well.example/' }).expect(422)).text).toContain('its host is not one');
  expect((await tell({ who, page: 'https://notfoldwell.example/' }).expect(422)).text).toContain('its host is not one');
  expect((await tell({ site: 'x', who, page }).expect(422)).text).toContain('site:');
  expect((await tell({ who, page: 'javascript:alert(1)' }).expect(422)).text).toContain('page:');
  expect((await request(world.app).post('/v').set('Content-Type', 'text/plain').send('{').expect(422)).text).toContain(
    'error',
  );
  const bad = await ines
    .put('/api/site')
    .send({ hosts: ['https://foldwell.example/x'] })
    .expect(422);
  expect(bad.text).toContain('without https://');
});

test('an address of a site names its reader and stays as it was written; others are left alone', () => {
  const name = (address: string) => namingReader(address, ['foldwell.example'], 'from_email', () => 'T');
  expect(name('https://foldwell.example')).toBe('https://foldwell.example?from_email=T');
  expect(name('https://www.foldwell.example/a%20b?x=1&y=ü#z?')).toBe(
    'https://www.foldwell.example/a%20b?x=1&y=ü&from_email=T#z?',
  );
  for (const other of [
    'https://notfoldwell.example/',
    'mailto:ines@foldwell.example',
    '/f/1',
    'https://a.example/?u=foldwell.example',
  ])
    expect(name(other)).toBe(other);
});

test('a link of an email, and a form that leads to a page of one’s own, say who comes; mail programs that look ahead do not', async () => {
  await world.live({
    name: 'With a link',
    steps: [emailStep('Come', { address: 'https://foldwell.example/kits?x=1' })],
  });
  await world.join('cy@x.example');
  await world.ahead((await world.now()) + 60_000);
  const sent = world.mailbox.store.summaries.find((m) => m.to.includes('cy@x.example'));
  const mail = await simpleParser(world.mailbox.store.source(sent as never));
  const link = new URL(/https?:[^"]*\/c\/[^"]+/.exec(String(mail.html))?.[0] ?? '').pathname;
  const followed = await request(world.app).get(link).expect(302);
  const to = new URL(String(followed.headers.location));
  expect(to.searchParams.get('x')).toBe('1');
  await tell({ who: to.searchParams.get('from_email'), page: 'https://foldwell.example/kits' }).expect(204);
  expect(await reached('cy@x.example')).toHaveLength(1);
  const ahead = await request(world.app).get(link).set('Sec-Purpose', 'prefetch').expect(302);
  expect(String(ahead.headers.location)).not.toContain('from_email');
});

test('reached a page and ordered nothing within two hours: it starts when the time is up, with what it was about', async () => {
  await world.live({
    name: 'Looked and left',
    list: null,
    triggers: [
      {
        kind: 'unfollowed',
        event: 'page.reached',
        where: [{ field: 'page', op: 'begins with', value: '/kits' }],
        without: 'order.paid',
        within: { amount: 2, unit: 'hours' },
      },
    ],
    steps: [emailStep('Still here')],
  });
  for (const who of ['left', 'bought', 'elsewhere', 'later']) await world.join(`${who}@page.example`);
  const began = await world.now();
  const visit = async (who: string, page: string) =>
    tell({ who: await token(`${who}@page.example`), page: `https://foldwell.example${page}` }).expect(204);
  await visit('left', '/kits/coptic');
  await visit('bought', '/kits/coptic');
  await visit('later', '/kits/coptic');
  await visit('elsewhere', '/about');
  await world.ahead(began + HOUR);
  await world.event({ type: 'order.paid', subject: 'bought@page.example' }).expect(202);
  await world.ahead(began + 2 * HOUR + 60_000);
  await world.event({ type: 'order.paid', subject: 'later@page.example' }).expect(202);
  await world.ahead(began + DAY);
  const mails = (who: string) =>
    world.mail().flatMap((m) => (m.to === `${who}@page.example` && m.subject === 'Still here' ? [m.at - began] : []));
  expect(mails('bought')).toEqual([]);
  expect(mails('elsewhere')).toEqual([]);
  for (const who of ['left', 'later']) {
    expect(mails(who)).toHaveLength(1);
    expect(Math.abs((mails(who)[0] ?? 0) - 2 * HOUR)).toBeLessThanOrEqual(60_000);
  }
  const [visitRow] = await rows<{ entry: Record<string, string> }>(
    world.connection.db,
    sql`select v.entry from visits v join people p on p.id = v.person_id where p.email = 'left@page.example' and v.entry_event = 'page.reached'`,
  );
  expect(visitRow?.entry.page).toBe('/kits/coptic');
});

test('a form that leads to a page of the site says who has confirmed', async () => {
  const { id: form } = (await ines.post('/api/forms').send({ name: 'Guide' }).expect(200)).body as { id: string };
  const doc = {
    ...blankForm('Guide', world.list, 'en', false),
    after: { kind: 'page', address: 'https://foldwell.example/thanks' },
  };
  await ines.put(`/api/forms/${form}`).send(doc).expect(200);
  await ines.post(`/api/forms/${form}/status`).send({ status: 'open' }).expect(200);
  await request(world.app).post(`/form/${form}`).type('form').send({ email: 'di@x.example', agree: 'yes' }).expect(200);
  const [asked] = await rows<{ address: string }>(
    world.connection.db,
    sql`select e.payload->>'confirm' as address from events e join people p on p.id = e.person_id where p.email = 'di@x.example' and e.name = 'form.asked'`,
  );
  const confirmed = await request(world.app)
    .post(new URL(asked?.address ?? '').pathname)
    .expect(303);
  const to = new URL(String(confirmed.headers.location));
  expect(to.origin + to.pathname).toBe('https://foldwell.example/thanks');
  await tell({ who: to.searchParams.get('from_email'), page: to.href }).expect(204);
  expect((await reached('di@x.example'))[0]?.page).toBe('/thanks');
});
