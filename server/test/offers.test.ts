import { GifReader } from 'omggif';
import { sql } from 'drizzle-orm';
import { Webhook } from 'standardwebhooks';
import request from 'supertest';
import type { OfferResult } from '@ascenso/contracts';
import { describe, expect, test } from 'vitest';
import { blockKinds, type Offer } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { codeIn, codesOf, useOffers, type OffersBody } from './support/offers.ts';
import { emailStep, testId, waitStep } from './support/world.ts';

const HOUR = 3_600_000;
const { world, agent, now, unique, address, gives, addOffer, offering, mailTo, shop, importing } = useOffers();

describe('one promise', () => {
  test('one code and one deadline through all emails, the shop and the timer; nothing after it has closed', async () => {
    const offer = await addOffer();
    // Joined on a Friday: by Monday it has closed.
    const late = { ...offering('Late', offer), window: { days: [1], from: 480, to: 600 } };
    await world.live({
      steps: [offering('Gift', offer), waitStep(1), offering('Reminder', offer), waitStep(12, 'hours'), late],
    });
    const to = address();
    await world.join(to);
    await world.ahead(now() + 25 * HOUR);
    const [gift, reminder] = mailTo(to);
    expect(codeIn(gift)).toMatch(/^K\d+-\w{4}-\w{4}$/);
    expect(codeIn(reminder)).toBe(codeIn(gift));
    // The shop is told the same moment.
    const { body } = await shop('get', codeIn(gift)).expect(200);
    expect(body).toMatchObject({
      good: true,
      for: to,
      until: new Date(now() + 48 * HOUR).toISOString(),
      offer: { words: '10% off one order' },
    });
    // So does the timer in the email, 23 hours before.
    const source = world.mailbox.store
      .source(world.mailbox.store.summaries.filter((s) => s.to === to).at(-1) as never)
      .toString();
    const html = source.replace(/=\r\n/g, '').replace(/=3D/g, '=').replace(/=20/g, ' ');
    const picture = /src="http:\/\/ascenso\.test(\/t\/[^"]+\.gif)"/.exec(html)?.[1] ?? '';
    expect(picture).not.toContain('reader');
    const timer = await request(world.app).get(picture).buffer().expect(200);
    expect(timer.headers['cache-control']).toBe('no-store, no-cache, must-revalidate, max-age=0');
    expect(timer.headers.etag).toBeUndefined();
    expect(new GifReader(timer.body as never)).toMatchObject({ width: 960, height: 192 });
    expect(html.slice(0, html.indexOf('text/html'))).toMatch(/\nCloses on Sunday,? \d+ March/);
    expect(html).toMatch(/alt="Closes on Sunday,? \d+ March/);
    // Following the button is seen, and told by its words.
    const link = /href="http:\/\/ascenso\.test(\/c\/[^"]+)"/.exec(html)?.[1] ?? '';
    await request(world.app).get(link).expect(302);
    const { story } = (await agent().get(`/api/people/${(await world.person(to))?.id}`)).body as {
      story: { text: string }[];
    };
    expect(story.map((s) => s.text)).toContain('Clicked “See the kits” in “Reminder”.');
    // The third email comes after the deadline, and does not go.
    await world.ahead(now() + 80 * HOUR);
    expect(mailTo(to)).toHaveLength(2);
    expect(codesOf(await world.trace(to))).toEqual([
      'entered',
      'offer-opened',
      'email-sent',
      'wait-begun',
      'email-sent',
      'wait-begun',
      'email-held',
      'offer-closed',
      'reached-end',
    ]);
    expect((await shop('get', codeIn(gift))).body).toMatchObject({
      good: false,
      reason: 'closed',
      message: expect.stringContaining('closed on Sun'),
    });
    // Each told once as an event, at the moment itself.
    const told = await rows<{ name: string; at: number }>(
      world.connection.db,
      sql`select e.name, e.occurred_at as at from events e join people p on p.id = e.person_id where p.email = ${to} and e.name like 'offer.%' order by 2`,
    );
    expect(told).toEqual([
      { name: 'offer.issued', at: now() },
      { name: 'offer.seen', at: now() + 25 * HOUR },
      { name: 'offer.expired', at: now() + 48 * HOUR },
    ]);
  });

  test('used once: the same order again answers the same, another is refused; the next email is left out; taken back, it is good again', async () => {
    const offer = await addOffer();
    await world.live({ steps: [offering('Gift', offer), waitStep(1), offering('Reminder', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now() + HOUR);
    const code = codeIn(mailTo(to)[0]);
    // Typed in a hurry: small letters, a space for a hyphen.
    const typed = encodeURIComponent(code.toLowerCase().replace('-', ' '));
    const redeem = (order: string, more = {}) => shop('post', `${typed}/redeem`).send({ order, total: 48.5, ...more });
    expect((await redeem('A-1').expect(200)).body).toMatchObject({ good: true, repeated: false });
    expect((await redeem('A-1').expect(200)).body).toMatchObject({ good: true, repeated: true });
    expect((await redeem('A-2').expect(409)).body).toMatchObject({ code: 'used', field: 'code' });
    const offers = async () =>
      ((await agent().get('/api/offers')).body as OffersBody).offers.find((o) => o.id === offer)?.funnel;
    expect(await offers()).toEqual({ issued: 1, seen: 0, used: 1, expired: 0, money: { EUR: 4850 } });
    // The same in the results, on the day it happened and on no other.
    const results = async (at: number) => {
      const day = new Date(at).toISOString().slice(0, 10);
      const { body } = await agent().get(`/api/results/offers?from=${day}&to=${day}`).expect(200);
      return (body as { offers: OfferResult[] }).offers.find((o) => o.id === offer);
    };
    const brought = { given: 1, seen: 0, used: 1, ranOut: 0, orders: 1, money: { EUR: 4850 } };
    expect(await results(now())).toMatchObject(brought);
    expect(await results(now() - 48 * HOUR)).toBeUndefined();
    await shop('post', `${typed}/cancel`).send({ order: 'A-1' }).expect(200);
    expect((await shop('get', typed)).body).toMatchObject({ good: true });
    expect(await offers()).toMatchObject({ used: 0, money: {} });
    expect(await results(now())).toMatchObject({ ...brought, used: 0, orders: 0, money: {} });
    // The decimals of an amount are its currency's: yen have none.
    expect((await redeem('A-3', { total: 48.555 }).expect(422)).body).toMatchObject({ field: 'total' });
    expect((await redeem('A-3', { total: 48.5, currency: 'JPY' }).expect(422)).body.detail).toBe(
      'total: an amount in JPY has no digits after the point.',
    );
    await redeem('A-3', { total: 4850, currency: 'JPY' }).expect(200);
    expect(await offers()).toMatchObject({ used: 1, money: { JPY: 4850 } });
    await world.ahead(now() + 30 * HOUR);
    expect(mailTo(to)).toHaveLength(1);
    expect(codesOf(await world.trace(to))).toContain('offer-used');
    // Somebody else cannot use it, and another workspace does not know it.
    expect((await shop('get', `${typed}?email=other@readers.example`)).body).toMatchObject({
      good: false,
      reason: 'not-given',
    });
  });

  test('an order that used the codes of two offers: one is taken back, the other stays used', async () => {
    const [first, second] = [await addOffer(), await addOffer()];
    await world.live({ steps: [offering('Gift', first), offering('Another', second)] });
    const to = address();
    await world.join(to);
    await world.ahead(now() + HOUR);
    const [one, two] = mailTo(to).map(codeIn) as [string, string];
    for (const code of [one, two]) await shop('post', `${code}/redeem`).send({ order: 'B-1', total: 60 }).expect(200);
    await shop('post', `${two}/cancel`).send({ order: 'B-1' }).expect(200);
    await shop('post', `${two}/cancel`).send({ order: 'B-2' }).expect(404);
    expect((await shop('get', one)).body).toMatchObject({ good: false, reason: 'used' });
    expect((await shop('get', two)).body).toMatchObject({ good: true });
  });

  test('a shared code is good for whom it was given, until their own deadline', async () => {
    const offer = await addOffer({ codes: { kind: 'shared', code: unique('PAPER') } });
    await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now() + HOUR);
    const code = codeIn(mailTo(to)[0]);
    expect(code).toMatch(/^PAPER\d+$/);
    expect((await shop('get', code)).body).toMatchObject({ good: false, reason: 'email-needed' });
    expect((await shop('get', `${code}?email=${to}`)).body).toMatchObject({ good: true, for: null });
    expect((await shop('get', `${code}?email=stranger@readers.example`)).body).toMatchObject({
      good: false,
      reason: 'not-given',
    });
    // Another code from now on: whoever was given this one keeps it.
    await agent()
      .put(`/api/offers/${offer}`)
      .send(gives({ codes: { kind: 'shared', code: unique('LINEN') } }))
      .expect(200);
    expect((await shop('get', `${code}?email=${to}`)).body).toMatchObject({ good: true, code });
    expect((await shop('get', `${code}?email=stranger@readers.example`)).body).toMatchObject({
      good: false,
      reason: 'unknown',
    });
    await shop('post', `${code}/redeem`).send({ order: 'S-1', email: to, total: 10 }).expect(200);
    expect((await shop('post', `${code}/redeem`).send({ order: 'S-2', email: to, total: 10 })).status).toBe(409);
  });

  test('an offer keeps what an email that is going out shows of it', async () => {
    const offer = await addOffer();
    await world.live({ name: unique('Going out '), steps: [offering('Gift', offer)] });
    const without = await agent()
      .put(`/api/offers/${offer}`)
      .send(gives({ codes: { kind: 'none' } }));
    expect([without.status, without.body.error.message]).toEqual([
      409,
      expect.stringMatching(
        /^“Gift” of “Going out \d+” is going out: .* has no code that could stand here\..*publish that first\.$/,
      ),
    ]);
    const never = await agent()
      .put(`/api/offers/${offer}`)
      .send(gives({ deadline: { kind: 'never' } }));
    expect([never.status, never.body.error.message]).toEqual([409, expect.stringContaining('never closes')]);
    const { offers } = (await agent().get('/api/offers').expect(200)).body as OffersBody;
    expect(offers.find((o) => o.id === offer)?.offer).toMatchObject({
      codes: { kind: 'made' },
      deadline: { kind: 'after' },
    });
    await agent()
      .put(`/api/offers/${offer}`)
      .send(gives({ discount: { kind: 'percent', value: 15 } }))
      .expect(200);
  });

  test('what was promised is what the shop takes, also when the offer gives something else by then', async () => {
    const asked = gives({ around: { before: '', after: 'one order' } });
    const offer = await addOffer(asked);
    const saying = (name: string) => {
      const step = offering(name, offer);
      step.email.subject = '{{ offer.words }}: {{ offer.code }}';
      return step;
    };
    await world.live({ steps: [saying('Gift'), waitStep(1), saying('Reminder')] });
    const [early, late] = [address(), address()];
    await world.join(early);
    await world.ahead(now() + HOUR);
    await agent()
      .put(`/api/offers/${offer}`)
      .send({ ...asked, discount: { kind: 'percent', value: 25 } })
      .expect(200);
    await world.join(late);
    const german = sql`update people set attributes = attributes || '{"language":"de"}' where email = ${late}`;
    await world.connection.db.execute(german);
    await world.ahead(now() + 26 * HOUR);
    const words = (to: string) => mailTo(to).map((subject) => subject.split(': ')[0]?.replaceAll('\u00a0', ' '));
    expect(words(early)).toEqual(['10% off one order', '10% off one order']);
    expect(words(late)).toEqual(['25 % Rabatt one order', '25 % Rabatt one order']);
    const answer = async (to: string) => (await shop('get', codeIn(mailTo(to)[0])).expect(200)).body as unknown;
    expect(await answer(early)).toMatchObject({ good: true, offer: { discount: { kind: 'percent', value: 10 } } });
    expect(await answer(late)).toMatchObject({
      offer: { discount: { value: 25 }, words: '25\u00a0% Rabatt one order' },
    });
  });

  test('no code is both somebody’s own and everybody’s', async () => {
    const pool = await addOffer({ codes: { kind: 'imported' } });
    const everybodys = unique('EVERY-');
    await addOffer({ codes: { kind: 'shared', code: everybodys } });
    const own = unique('OWN-');
    const { body } = await importing(pool, `${everybodys.toLowerCase()}\n${own}\n`);
    expect(body).toMatchObject({
      added: 0,
      refusedCount: 1,
      refused: [{ line: 1, why: expect.stringContaining('everybody') }],
    });
    expect((await importing(pool, `${own}\n`)).body).toMatchObject({ added: 1 });
    const refused = await agent()
      .post('/api/offers')
      .send(gives({ codes: { kind: 'shared', code: own.toLowerCase() } }));
    expect([refused.status, refused.body.error.field]).toEqual([422, 'codes.code']);
  });

  test('a mistyped code is told from one that does not exist, and a test shows a sample that is neither used up nor good', async () => {
    const offer = await addOffer();
    const id = await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now() + HOUR);
    const code = codeIn(mailTo(to)[0]);
    const wrong = code.slice(0, -1) + (code.endsWith('A') ? 'C' : 'A');
    expect((await shop('get', wrong)).body).toMatchObject({ good: false, reason: 'mistyped' });
    expect((await shop('get', 'NOTHING')).body).toMatchObject({ good: false, reason: 'unknown', offer: null });
    const person = await world.person(to);
    const step = (await agent().get(`/api/sequences/${id}`)).body.draft.steps[0].id as string;
    await agent()
      .post(`/api/sequences/${id}/steps/${step}/test`)
      .send({ person: person?.id, event: null, to: 'ines@foldwell.example' })
      .expect(200);
    const sample = codeIn(mailTo('ines@foldwell.example').at(-1));
    expect(sample).toContain('SAMP-LESA');
    expect((await shop('get', sample)).body.good).toBe(false);
    const taken = await firstRow<{ n: number }>(
      world.connection.db,
      sql`select count(*) as n from offer_codes where offer_id = ${offer} and person_id is not null`,
    );
    expect(taken?.n).toBe(1);
  });
});

test('another pattern counts from the next person on; whoever has a code keeps it', async () => {
  const offer = await addOffer();
  await world.live({ steps: [offering('Gift', offer)] });
  const [one, two] = [address(), address()];
  await world.join(one);
  await world.ahead(now() + HOUR);
  const { body } = await agent().get('/api/offers');
  const known = (body.offers as { id: string; offer: Offer }[]).find((o) => o.id === offer)?.offer as Offer;
  const codes: Offer['codes'] = {
    kind: 'made',
    pattern: { prefix: 'SPRING-', alphabet: 'figures', length: 9, group: 3, check: false },
  };
  await agent()
    .put(`/api/offers/${offer}`)
    .send({ ...known, codes })
    .expect(200);
  await world.join(two);
  await world.ahead(now() + 2 * HOUR);
  expect(codeIn(mailTo(one)[0])).toMatch(/^K\d+-/);
  expect(codeIn(mailTo(two)[0])).toMatch(/^SPRING-\d{3}-\d{3}-\d{3}$/);
  expect((await shop('get', codeIn(mailTo(one)[0]))).body.good).toBe(true);
});

test('whoever wants to be told of codes is told of each once, signed, with whom it is for and until when', async () => {
  const hooks = `http://127.0.0.1:${world.mailbox.httpPort}/hooks`;
  const offer = await addOffer({ webhook: `${hooks}/codes` });
  await world.live({ steps: [offering('Gift', offer), waitStep(1), offering('Reminder', offer)] });
  const to = address();
  await world.join(to);
  await world.ahead(now() + 30 * HOUR);
  const { calls } = (await (await fetch(hooks)).json()) as {
    calls: { path: string; body: string; headers: Record<string, string> }[];
  };
  const ours = calls.filter((c) => c.path.endsWith('/codes'));
  expect(ours).toHaveLength(1);
  const { secret } = (await agent().get('/api/webhooks/secret')).body as { secret: string };
  const told = new Webhook(secret).verify(ours[0]?.body ?? '', ours[0]?.headers as never);
  expect(told).toEqual({
    type: 'code.issued',
    timestamp: new Date(now()).toISOString(),
    data: { offer, code: codeIn(mailTo(to)[0]), for: to, until: new Date(now() + 48 * HOUR).toISOString() },
  });
});

test('once it is over the timer is another picture, or gone; with no offer behind it, a moment of its own', async () => {
  const PNG = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  const file = (await agent().post('/api/files').attach('file', PNG, 'over.png').expect(200)).body.id as string;
  const step = emailStep('Dates');
  const target = { kind: 'date', wall: new Date(now() + 2 * HOUR).toISOString().slice(0, 16), zone: 'UTC' } as const;
  const timers = [{ kind: 'picture', file }, { kind: 'gone' }, { kind: 'zeros' }].map((after) => ({
    ...blockKinds.timer.blank(testId),
    to: target,
    after,
  }));
  step.email.blocks.splice(1, 0, ...(timers as never[]));
  await world.live({ steps: [step] });
  const to = address();
  await world.join(to);
  await world.ahead(now());
  const source = world.mailbox.store
    .source(world.mailbox.store.summaries.filter((s) => s.to === to).at(-1) as never)
    .toString();
  const [first = '', second = '', third = ''] = [
    ...source.replace(/=\r\n/g, '').matchAll(/src=3D"http:\/\/ascenso\.test(\/t\/[^"]+)"/g),
  ].map((m) => m[1]);
  const frames = async (path: string) =>
    new GifReader((await request(world.app).get(path).buffer().expect(200)).body as Buffer).numFrames();
  expect(await frames(first)).toBe(60);
  await world.stand(now() + 3 * HOUR);
  const over = await request(world.app).get(first).expect(302);
  expect([over.headers.location, over.headers['cache-control']]).toEqual([`/f/${file}`, 'no-store']);
  expect(new GifReader((await request(world.app).get(second).buffer().expect(200)).body as Buffer)).toMatchObject({
    width: 1,
    height: 1,
  });
  expect(await frames(third)).toBe(1);
  // A token of ours with another number, or one that is made up, shows nothing and tells nothing.
  expect((await request(world.app).get(first.replace('/0.gif', '/7.gif'))).status).toBe(404);
  expect((await request(world.app).get(`/t/${'A'.repeat(56)}/0.gif`)).status).toBe(404);
});

test('an offer in use stays; one that nobody has been given goes', async () => {
  const offer = await addOffer();
  await world.live({ steps: [offering('Gift', offer)] });
  expect((await agent().delete(`/api/offers/${offer}`).expect(409)).body.error.message).toContain('Welcome: Gift');
  await agent()
    .delete(`/api/offers/${await addOffer()}`)
    .expect(200);
});
