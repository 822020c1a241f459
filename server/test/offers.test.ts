import { Readable } from 'node:stream';
import { GifReader } from 'omggif';
import { sql } from 'drizzle-orm';
import { Webhook } from 'standardwebhooks';
import request from 'supertest';
import { beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { blankOffer, blockKinds, type Offer } from '@ascenso/core';
import { firstRow, rows } from '../src/db/rows.ts';
import { importCodes } from '../src/jobs/import-codes.ts';
import { emailStep, FRIDAY_NOON, owner, testId, useWorld, waitStep } from './support/world.ts';

const HOUR = 3_600_000;
const world = useWorld();
let agent: ReturnType<typeof request.agent>;
beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});
let now = FRIDAY_NOON;
let n = 0;
// Each test has its own week, its own list and its own offer.
beforeEach(async () => {
  now += 7 * 24 * HOUR;
  await world.stand(now);
  world.list = await world.addList(world.ws, `Letters ${++n}`);
});

const address = () => `reader${++n}@readers.example`;
interface OffersBody {
  offers: { id: string; offer: Offer; funnel: object }[];
}
const gives = (some: Partial<Offer> = {}): Offer => ({
  ...blankOffer(),
  name: `Kit offer ${++n}`,
  words: '10% off one order',
  codes: {
    kind: 'made',
    pattern: { prefix: `K${n}-`, alphabet: 'letters and figures', length: 7, group: 4, check: true },
  },
  ...some,
});
async function addOffer(some: Partial<Offer> = {}): Promise<string> {
  const { body } = await agent.post('/api/offers').send(gives(some)).expect(200);
  return (body as { id: string }).id;
}
/** An email that makes an offer: its code, its deadline in words, its timer. */
function offering(name: string, offer: string) {
  const step = emailStep(name, { subject: `${name}: {{ offer.code | default: "none" }}` });
  step.email.offer = offer;
  step.email.blocks.splice(1, 0, blockKinds.code.blank(testId), blockKinds.timer.blank(testId));
  return step;
}
const mailTo = (to: string) =>
  world
    .mail()
    .filter((m) => m.to === to)
    .map((m) => m.subject);
const codeIn = (subject: string | undefined) => subject?.split(': ')[1] ?? '';
const codes = (trace: { code: string }[]) => trace.map((t) => t.code);
const shop = (method: 'get' | 'post', path: string, key = world.key) =>
  request(world.app)[method](`/intake/codes/${path}`).set('Authorization', `Bearer ${key}`);
const importing = (offer: string, text: string, query = '') =>
  agent.post(`/api/offers/${offer}/codes${query}`).set('Content-Type', 'text/csv').send(text);

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
    await world.ahead(now + 25 * HOUR);
    const [gift, reminder] = mailTo(to);
    expect(codeIn(gift)).toMatch(/^K\d+-\w{4}-\w{4}$/);
    expect(codeIn(reminder)).toBe(codeIn(gift));
    // The shop is told the same moment.
    const { body } = await shop('get', codeIn(gift)).expect(200);
    expect(body).toMatchObject({
      good: true,
      for: to,
      until: new Date(now + 48 * HOUR).toISOString(),
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
    expect(html.slice(0, html.indexOf('text/html'))).toMatch(/\nCloses on Sunday, March \d+/);
    expect(html).toMatch(/alt="Closes on Sunday, (March )?\d+/);
    // Following the button is seen, and told by its words.
    const link = /href="http:\/\/ascenso\.test(\/c\/[^"]+)"/.exec(html)?.[1] ?? '';
    await request(world.app).get(link).expect(302);
    const { story } = (await agent.get(`/api/people/${(await world.person(to))?.id}`)).body as {
      story: { text: string }[];
    };
    expect(story.map((s) => s.text)).toContain('Clicked “See the kits” in “Reminder”.');
    // The third email comes after the deadline, and does not go.
    await world.ahead(now + 80 * HOUR);
    expect(mailTo(to)).toHaveLength(2);
    expect(codes(await world.trace(to))).toEqual([
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
    // Told once as an event, at the moment itself.
    const told = await rows<{ at: number }>(
      world.connection.db,
      sql`select e.occurred_at as at from events e join people p on p.id = e.person_id where p.email = ${to} and e.name = 'offer.expired'`,
    );
    expect(told).toEqual([{ at: now + 48 * HOUR }]);
  });

  test('used once: the same order again answers the same, another is refused; the next email is left out; taken back, it is good again', async () => {
    const offer = await addOffer();
    await world.live({ steps: [offering('Gift', offer), waitStep(1), offering('Reminder', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now + HOUR);
    const code = codeIn(mailTo(to)[0]);
    // Typed in a hurry: small letters, a space for a hyphen.
    const typed = encodeURIComponent(code.toLowerCase().replace('-', ' '));
    const redeem = (order: string, more = {}) => shop('post', `${typed}/redeem`).send({ order, total: 48.5, ...more });
    expect((await redeem('A-1').expect(200)).body).toMatchObject({ good: true, repeated: false });
    expect((await redeem('A-1').expect(200)).body).toMatchObject({ good: true, repeated: true });
    expect((await redeem('A-2').expect(409)).body.error).toMatchObject({ code: 'used', field: 'code' });
    const offers = async () =>
      ((await agent.get('/api/offers')).body as OffersBody).offers.find((o) => o.id === offer)?.funnel;
    expect(await offers()).toEqual({ issued: 1, seen: 0, used: 1, expired: 0, money: { EUR: 4850 } });
    await shop('post', `${typed}/cancel`).send({ order: 'A-1' }).expect(200);
    expect((await shop('get', typed)).body).toMatchObject({ good: true });
    expect(await offers()).toMatchObject({ used: 0, money: {} });
    // The decimals of an amount are its currency's: yen have none.
    expect((await redeem('A-3', { total: 48.555 }).expect(422)).body.error).toMatchObject({ field: 'total' });
    expect((await redeem('A-3', { total: 48.5, currency: 'JPY' }).expect(422)).body.error.message).toBe(
      'total: an amount in JPY has no digits after the point.',
    );
    await redeem('A-3', { total: 4850, currency: 'JPY' }).expect(200);
    expect(await offers()).toMatchObject({ used: 1, money: { JPY: 4850 } });
    await world.ahead(now + 30 * HOUR);
    expect(mailTo(to)).toHaveLength(1);
    expect(codes(await world.trace(to))).toContain('offer-used');
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
    await world.ahead(now + HOUR);
    const [one, two] = mailTo(to).map(codeIn) as [string, string];
    for (const code of [one, two]) await shop('post', `${code}/redeem`).send({ order: 'B-1', total: 60 }).expect(200);
    await shop('post', `${two}/cancel`).send({ order: 'B-1' }).expect(200);
    await shop('post', `${two}/cancel`).send({ order: 'B-2' }).expect(404);
    expect((await shop('get', one)).body).toMatchObject({ good: false, reason: 'used' });
    expect((await shop('get', two)).body).toMatchObject({ good: true });
  });

  test('a shared code is good for whom it was given, until their own deadline', async () => {
    const offer = await addOffer({ codes: { kind: 'shared', code: `PAPER${++n}` } });
    await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now + HOUR);
    const code = codeIn(mailTo(to)[0]);
    expect(code).toMatch(/^PAPER\d+$/);
    expect((await shop('get', code)).body).toMatchObject({ good: false, reason: 'email-needed' });
    expect((await shop('get', `${code}?email=${to}`)).body).toMatchObject({ good: true, for: null });
    expect((await shop('get', `${code}?email=stranger@readers.example`)).body).toMatchObject({
      good: false,
      reason: 'not-given',
    });
    // Another code from now on: whoever was given this one keeps it.
    await agent
      .put(`/api/offers/${offer}`)
      .send(gives({ codes: { kind: 'shared', code: `LINEN${n}` } }))
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
    await world.live({ name: `Going out ${n}`, steps: [offering('Gift', offer)] });
    const without = await agent.put(`/api/offers/${offer}`).send(gives({ codes: { kind: 'none' } }));
    expect([without.status, without.body.error.message]).toEqual([
      409,
      expect.stringMatching(
        /^“Gift” of “Going out \d+” is going out: .* has no code that could stand here\..*publish that first\.$/,
      ),
    ]);
    const never = await agent.put(`/api/offers/${offer}`).send(gives({ deadline: { kind: 'never' } }));
    expect([never.status, never.body.error.message]).toEqual([409, expect.stringContaining('never closes')]);
    const { offers } = (await agent.get('/api/offers').expect(200)).body as OffersBody;
    expect(offers.find((o) => o.id === offer)?.offer).toMatchObject({
      codes: { kind: 'made' },
      deadline: { kind: 'after' },
    });
    await agent
      .put(`/api/offers/${offer}`)
      .send(gives({ words: '15% off one order' }))
      .expect(200);
  });

  test('no code is both somebody’s own and everybody’s', async () => {
    const pool = await addOffer({ codes: { kind: 'imported' } });
    const everybodys = `EVERY-${++n}`;
    await addOffer({ codes: { kind: 'shared', code: everybodys } });
    const { body } = await importing(pool, `${everybodys.toLowerCase()}\nOWN-${n}\n`);
    expect(body).toMatchObject({
      added: 0,
      refusedCount: 1,
      refused: [{ line: 1, why: expect.stringContaining('everybody') }],
    });
    expect((await importing(pool, `OWN-${n}\n`)).body).toMatchObject({ added: 1 });
    const refused = await agent
      .post('/api/offers')
      .send(gives({ codes: { kind: 'shared', code: `own ${n}`.replace(' ', '-') } }));
    expect([refused.status, refused.body.error.field]).toEqual([422, 'codes.code']);
  });

  test('a mistyped code is told from one that does not exist, and a test shows a sample that is neither used up nor good', async () => {
    const offer = await addOffer();
    const id = await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now + HOUR);
    const code = codeIn(mailTo(to)[0]);
    const wrong = code.slice(0, -1) + (code.endsWith('A') ? 'C' : 'A');
    expect((await shop('get', wrong)).body).toMatchObject({ good: false, reason: 'mistyped' });
    expect((await shop('get', 'NOTHING')).body).toMatchObject({ good: false, reason: 'unknown', offer: null });
    const person = await world.person(to);
    const step = (await agent.get(`/api/sequences/${id}`)).body.draft.steps[0].id as string;
    await agent
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
  await world.ahead(now + HOUR);
  const { body } = await agent.get('/api/offers');
  const known = (body.offers as { id: string; offer: Offer }[]).find((o) => o.id === offer)?.offer as Offer;
  const codes: Offer['codes'] = {
    kind: 'made',
    pattern: { prefix: 'SPRING-', alphabet: 'figures', length: 9, group: 3, check: false },
  };
  await agent
    .put(`/api/offers/${offer}`)
    .send({ ...known, codes })
    .expect(200);
  await world.join(two);
  await world.ahead(now + 2 * HOUR);
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
  await world.ahead(now + 30 * HOUR);
  const { calls } = (await (await fetch(hooks)).json()) as {
    calls: { path: string; body: string; headers: Record<string, string> }[];
  };
  const ours = calls.filter((c) => c.path.endsWith('/codes'));
  expect(ours).toHaveLength(1);
  const { secret } = (await agent.get('/api/webhooks/secret')).body as { secret: string };
  const told = new Webhook(secret).verify(ours[0]?.body ?? '', ours[0]?.headers as never);
  expect(told).toEqual({
    type: 'code.issued',
    timestamp: new Date(now).toISOString(),
    data: { offer, code: codeIn(mailTo(to)[0]), for: to, until: new Date(now + 48 * HOUR).toISOString() },
  });
});

describe('a pool that runs out', () => {
  const three = async (empty: Offer['empty']) => {
    const offer = await addOffer({ codes: { kind: 'imported' }, empty });
    await importing(offer, `code\nPOOL-${n}-A\nPOOL-${n}-B\n`).expect(200);
    const id = await world.live({ steps: [offering('Gift', offer)] });
    const people = [address(), address(), address()];
    for (const p of people) await world.join(p);
    await world.ahead(now + HOUR);
    return { offer, id, people, got: people.map((p) => codeIn(mailTo(p)[0])) };
  };

  test('hold: the third waits, told once, and gets the first new code as soon as there is one', async () => {
    const { offer, people, got } = await three({ kind: 'hold' });
    expect(got.slice(0, 2).every((c) => c.startsWith('POOL-'))).toBe(true);
    expect(got[2]).toBe('');
    await world.ahead(now + 7 * HOUR);
    expect(codes(await world.trace(people[2] as string)).filter((c) => c === 'offer-empty')).toHaveLength(1);
    await importing(offer, 'LATE-1\n').expect(200);
    await world.ahead(now + 7 * HOUR + 60_000);
    expect(codeIn(mailTo(people[2] as string)[0])).toBe('LATE-1');
  });

  test('shared: everybody after the last gets the one code; without: they get none', async () => {
    expect((await three({ kind: 'shared', code: `SPARE${n + 50}` })).got[2]).toMatch(/^SPARE/);
    now += 24 * HOUR;
    await world.stand(now);
    world.list = await world.addList(world.ws, `Letters ${++n}`);
    const { got, people } = await three({ kind: 'without' });
    expect(got[2]).toBe('none');
    // The block falls away with its code, the deadline stands.
    const source = world.mailbox.store
      .source(world.mailbox.store.summaries.filter((s) => s.to === people[2]).at(-1) as never)
      .toString();
    expect(source).not.toContain('Your code');
    expect(source).toContain('Closes on');
  });

  test('what was reserved for an email that is taken back before it went is free again', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' }, empty: { kind: 'hold' } });
    await importing(offer, `BACK-${n}\n`).expect(200);
    const id = await world.live({ steps: [offering('Gift', offer), waitStep(3)] });
    const to = address();
    // The receiving server is busy: the email is decided, its code reserved, and it waits in the queue.
    const { advanceRound } = await import('../src/engine/advance-loop.ts');
    await world.join(to);
    await advanceRound(world.connection, now);
    const free = async () =>
      (
        await firstRow<{ n: number }>(
          world.connection.db,
          sql`select count(*) as n from offer_codes where offer_id = ${offer} and person_id is null`,
        )
      )?.n;
    expect(await free()).toBe(0);
    await agent.post(`/api/sequences/${id}/status`).send({ status: 'archived' }).expect(200);
    expect(await free()).toBe(1);
    expect(await rows(world.connection.db, sql`select 1 from offer_grants where offer_id = ${offer}`)).toEqual([]);
  });
});

test('low stock is warned of by the forecast: the day on which the codes run out, and how many are on the way', async () => {
  const offer = await addOffer({ codes: { kind: 'imported' } });
  await importing(offer, Array.from({ length: 3 }, (_, i) => `LOW-${n}-${i}`).join('\n')).expect(200);
  await world.live({ steps: [waitStep(2), offering('Gift', offer)] });
  const stock = async () =>
    (
      (await agent.get('/api/offers')).body.offers as {
        id: string;
        left: number;
        waiting: number;
        emptyOn: number | null;
        forecast: number[];
      }[]
    ).find((o) => o.id === offer);
  // Three on the way: one code each. The next few weeks' joiners are reckoned from the last four weeks.
  for (let i = 0; i < 3; i++) await world.join(address());
  await world.ahead(now);
  expect(await stock()).toMatchObject({ left: 3, waiting: 3 });
  const day = 24 * HOUR;
  const first = await stock();
  expect(first?.forecast[2]).toBeGreaterThanOrEqual(3);
  await world.join(address());
  await world.ahead(now);
  const second = await stock();
  // The fourth of Friday's people gets to the email on Sunday, and finds none.
  expect(second).toMatchObject({ left: 3, waiting: 4 });
  const inLisbon = (at: number) =>
    new Intl.DateTimeFormat('sv-SE', { timeZone: 'Europe/Lisbon', dateStyle: 'short', timeStyle: 'short' }).format(at);
  expect(inLisbon(second?.emptyOn ?? 0)).toBe(`${inLisbon(now + 2 * day).slice(0, 10)} 00:00`);
});

test('once it is over the timer is another picture, or gone; with no offer behind it, a moment of its own', async () => {
  const PNG = Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  );
  const file = (await agent.post('/api/files').attach('file', PNG, 'over.png').expect(200)).body.id as string;
  const step = emailStep('Dates');
  const target = { kind: 'date', wall: new Date(now + 2 * HOUR).toISOString().slice(0, 16), zone: 'UTC' } as const;
  const timers = [{ kind: 'picture', file }, { kind: 'gone' }, { kind: 'zeros' }].map((after) => ({
    ...blockKinds.timer.blank(testId),
    to: target,
    after,
  }));
  step.email.blocks.splice(1, 0, ...(timers as never[]));
  await world.live({ steps: [step] });
  const to = address();
  await world.join(to);
  await world.ahead(now);
  const source = world.mailbox.store
    .source(world.mailbox.store.summaries.filter((s) => s.to === to).at(-1) as never)
    .toString();
  const [first = '', second = '', third = ''] = [
    ...source.replace(/=\r\n/g, '').matchAll(/src=3D"http:\/\/ascenso\.test(\/t\/[^"]+)"/g),
  ].map((m) => m[1]);
  const frames = async (path: string) =>
    new GifReader((await request(world.app).get(path).buffer().expect(200)).body as Buffer).numFrames();
  expect(await frames(first)).toBe(60);
  await world.stand(now + 3 * HOUR);
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

describe('codes from a file', () => {
  test('bad rows and doubles are told by line and nothing is taken; or the good ones alone', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' } });
    const file = `code,note\nAB-${n}-1,x\nwith space,y\nab ${n} 1\nAB-${n}-2\nab-${n}-1\n;\n`;
    const { body } = await importing(offer, file).expect(200);
    expect(body).toMatchObject({ added: 0, refusedCount: 4 });
    expect((body.refused as { line: number }[]).map((r) => r.line)).toEqual([3, 4, 6, 7]);
    expect(body.refused[2].why).toContain('stands in line 2 already');
    const left = async () =>
      ((await agent.get('/api/offers')).body.offers as { id: string; left: number }[]).find((o) => o.id === offer)
        ?.left;
    expect(await left()).toBe(0);
    expect((await importing(offer, file, '?skip=1')).body).toMatchObject({ added: 2, refusedCount: 4 });
    expect(await left()).toBe(2);
    // What another offer has cannot be given twice.
    const other = await addOffer({ codes: { kind: 'imported' } });
    expect((await importing(other, `AB-${n - 1}-2\n`)).body).toMatchObject({
      added: 0,
      refused: [{ line: 1, why: expect.stringContaining('there already') }],
    });
  });

  test('a file that breaks off on its way adds nothing, and holds up nobody after it', async () => {
    const offer = await addOffer({ codes: { kind: 'imported' } });
    const own = `P${n++}`;
    // The page is left, or Cancel is pressed: more than one written batch has come by then.
    const lines = function* () {
      for (let i = 0; i < 25_000; i++) yield `${own}-${i}\n`;
      throw new Error('aborted');
    };
    const broken = Readable.from(lines());
    await expect(
      world.connection.db.transaction((tx) => importCodes(tx, world.ws, offer, broken, true)),
    ).rejects.toThrow('aborted');
    const { body } = await importing(offer, `${own}-0\n`).expect(200);
    expect(body).toEqual({ added: 1, refused: [], refusedCount: 0 });
  });

  test('what has been given out comes back as a file', async () => {
    const offer = await addOffer();
    await world.live({ steps: [offering('Gift', offer)] });
    const to = address();
    await world.join(to);
    await world.ahead(now + HOUR);
    const { text } = await agent.get(`/api/offers/${offer}/codes.csv`).expect(200);
    expect(text.trim().split('\n')).toEqual([
      'code,email,issued at,closes at,used at',
      `${codeIn(mailTo(to)[0])},${to},${new Date(now).toISOString()},${new Date(now + 48 * HOUR).toISOString()},`,
    ]);
  });

  test('what is wrong is said, with the field', async () => {
    const refused = async (some: object) =>
      (
        await agent
          .post('/api/offers')
          .send({ ...blankOffer(), name: 'Wrong', words: 'x', ...some })
          .expect(422)
      ).body.error as { field: string; message: string };
    expect(await refused({ codes: { kind: 'shared', code: 'has space' } })).toMatchObject({ field: 'codes.code' });
    expect(await refused({ name: ' ' })).toMatchObject({ field: 'name', message: 'name: Give the offer a name.' });
    await addOffer({ codes: { kind: 'shared', code: 'TWICE' } });
    expect(await refused({ codes: { kind: 'shared', code: 'twice' } })).toMatchObject({ field: 'codes.code' });
    const made = await addOffer();
    expect((await importing(made, 'A1\n').expect(422)).body.error.message).toContain('does not take codes from a file');
    expect((await shop('post', 'X/redeem').send({ total: 3 }).expect(422)).body.error.field).toBe('order');
    expect((await shop('post', 'X/redeem').send({ order: '1', total: 3 }).expect(409)).body.error).toMatchObject({
      code: 'unknown',
    });
  });
});

test('an offer in use stays; one that nobody has been given goes', async () => {
  const offer = await addOffer();
  await world.live({ steps: [offering('Gift', offer)] });
  expect((await agent.delete(`/api/offers/${offer}`).expect(409)).body.error.message).toContain('Welcome: Gift');
  await agent.delete(`/api/offers/${await addOffer()}`).expect(200);
});
