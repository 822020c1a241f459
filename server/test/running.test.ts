import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { sql } from 'drizzle-orm';
import { Webhook } from 'standardwebhooks';
import { DAY, HOUR, plainCap, type CapRules, type Sequence, type Step } from '@ascenso/core';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { rows } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { personStory } from '../src/db/people.ts';
import { callWebhook, isPublic, webhookSecret } from '../src/mail/webhook.ts';
import { useEngine } from './support/engine.ts';
import { emailStep, owner, testId, waitStep } from './support/world.ts';

const { world, address, mailTo, codes, sequenceOf: begun } = useEngine();
let agent: ReturnType<typeof request.agent>;
const subjects = (email: string) => mailTo(email).map((m) => m.subject);
const story = async (email: string) =>
  (await personStory(world.connection.db, world.ws, (await world.person(email))?.id as string, 'Europe/Lisbon')).story
    .map((s) => s.text)
    .join('\n');

beforeAll(async () => {
  agent = request.agent(world.app);
  await agent.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
});

const action = (a: object): Step => ({ id: testId(), on: true, note: '', kind: 'action', action: a }) as Step;

describe('pausing, and what resuming does to what is overdue', () => {
  const paused = async () => {
    const s = await begun([emailStep('First'), waitStep(1), emailStep('Second'), waitStep(3), emailStep('Third')]);
    const [early, late] = [address(), address()];
    const now = await world.now();
    await s.start(early);
    await world.ahead(now + HOUR);
    await agent.post(`/api/sequences/${s.id}/status`).send({ status: 'paused' }).expect(200);
    await world.ahead(now + 3 * DAY);
    await s.start(late);
    await world.ahead(now + 4 * DAY);
    expect([subjects(early), subjects(late)]).toEqual([['First'], []]);
    return { ...s, early, late, now };
  };

  test('people still come in, nothing goes out, and the counts are told before anything is done', async () => {
    const s = await paused();
    const { body } = await agent.get(`/api/sequences/${s.id}/resume?late=24`).expect(200);
    expect(body).toMatchObject({ pausedAt: s.now + HOUR, inside: 2, overdue: 2, tooLate: 2, queued: 0 });
    const twoDays = await agent.get(`/api/sequences/${s.id}/resume?late=48`).expect(200);
    expect(twoDays.body).toMatchObject({ overdue: 2, tooLate: 1 });
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'later' }).expect(422);
  });

  test('send: all that is overdue goes at once, and later steps count from then', async () => {
    const s = await paused();
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'send' }).expect(200);
    await world.ahead(s.now + 9 * DAY);
    const days = (who: string) => mailTo(who).map((m) => Math.round((m.at - s.now) / DAY));
    expect(days(s.early)).toEqual([0, 4, 7]);
    expect(days(s.late)).toEqual([4, 5, 8]);
  });

  test('skip: the next email of whoever is too late is left out, with the reason; the others get theirs', async () => {
    const s = await paused();
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'skip', lateHours: 48 }).expect(200);
    await world.ahead(s.now + 9 * DAY);
    expect(subjects(s.early)).toEqual(['First', 'Third']);
    expect(subjects(s.late)).toEqual(['First', 'Second', 'Third']);
    expect(await story(s.early)).toMatch(/“Second” was left out: it was too late/);
  });

  test('shift: everybody goes on as if there had been no pause', async () => {
    const s = await paused();
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'shift' }).expect(200);
    await world.ahead(s.now + 20 * DAY);
    const hours = mailTo(s.early).map((m) => Math.round((m.at - s.now) / HOUR));
    // Paused after one hour, resumed after four days: everything is 95 hours later.
    expect(hours).toEqual([0, 24 + 95, 96 + 95]);
    expect(await codes(s.early)).toContain('shifted');
    // Who came in during the pause begins when it is over, not a whole pause later.
    expect(mailTo(s.late).map((m) => Math.round((m.at - s.now) / DAY))).toEqual([4, 5, 8]);
  });

  test('shift: a goal reached during the pause takes back what was in the queue', async () => {
    const goal = {
      kind: 'event' as const,
      event: 'order.paused',
      done: true,
      since: { kind: 'entry' as const },
      where: [],
    };
    const s = await begun([emailStep('Too late now'), waitStep(5), emailStep('Never')], { goal });
    const who = address('busy.example');
    await s.start(who);
    const now = await world.now();
    await world.ahead(now);
    await agent.post(`/api/sequences/${s.id}/status`).send({ status: 'paused' }).expect(200);
    await world.stand(now + HOUR);
    await world.event({ type: 'order.paused', subject: who }).expect(202);
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'shift' }).expect(200);
    await world.ahead(now + 9 * DAY);
    expect(subjects(who)).toEqual([]);
    expect(await codes(who)).toContain('goal-reached');
  });

  test('skip: an email behind a wait that only begins after the pause is not late', async () => {
    const s = await begun([waitStep(1), waitStep(3), emailStep('In its own time')]);
    const who = address();
    await s.start(who);
    const now = await world.now();
    await world.ahead(now);
    await agent.post(`/api/sequences/${s.id}/status`).send({ status: 'paused' }).expect(200);
    await world.ahead(now + 6 * DAY);
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'skip', lateHours: 24 }).expect(200);
    await world.ahead(now + 12 * DAY);
    expect(mailTo(who).map((m) => Math.round((m.at - now) / DAY))).toEqual([9]);
  });

  test('an email that is in the queue when the sequence is paused stays there', async () => {
    const s = await begun([emailStep('Held back')]);
    const who = address('busy.example');
    await s.start(who);
    const now = await world.now();
    await world.ahead(now);
    await agent.post(`/api/sequences/${s.id}/status`).send({ status: 'paused' }).expect(200);
    await world.ahead(now + DAY);
    expect(subjects(who)).toEqual([]);
    const { body } = await agent.get(`/api/sequences/${s.id}/resume?late=1`).expect(200);
    expect(body).toMatchObject({ queued: 1, queuedLate: 1 });
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'skip', lateHours: 1 }).expect(200);
    await world.ahead(now + 2 * DAY);
    expect(subjects(who)).toEqual([]);
    expect(await codes(who)).toContain('email-too-late');
  });

  test('archiving lets everybody go, and nobody comes in; out of the archive it comes paused', async () => {
    const s = await begun([emailStep('One'), waitStep(1), emailStep('Two')]);
    const [inside, after] = [address(), address()];
    await s.start(inside);
    await world.ahead(await world.now());
    expect((await agent.post(`/api/sequences/${s.id}/status`).send({ status: 'archived' }).expect(200)).body).toEqual({
      left: 1,
    });
    await s.start(after);
    await world.ahead((await world.now()) + 3 * DAY);
    expect([subjects(inside), subjects(after)]).toEqual([['One'], []]);
    expect(await story(inside)).toMatch(/the sequence was archived/);
    await agent.post(`/api/sequences/${s.id}/resume`).send({ overdue: 'send' }).expect(200);
    expect((await agent.get(`/api/sequences/${s.id}`)).body.status).toBe('paused');
  });
});

describe('versions', () => {
  test('every publishing stays, with what it changed and by whom, and can be read as it was', async () => {
    const s = await begun([emailStep('First words')]);
    const { body: now } = await agent.get(`/api/sequences/${s.id}`);
    const step = now.draft.steps[0].id as string;
    await agent
      .post(`/api/sequences/${s.id}/commands`)
      .send({
        base: now.revision,
        edits: [{ role: 'edit', commands: [{ type: 'email.set', step, field: 'subject', value: 'Other words' }] }],
      })
      .expect(200);
    await agent
      .post(`/api/sequences/${s.id}/publish`)
      .send({ revision: now.revision + 1 })
      .expect(200);
    const { body } = (await agent.get(`/api/sequences/${s.id}/versions`).expect(200)) as {
      body: { versions: { number: number; by: string | null; changes: unknown }[] };
    };
    expect(body.versions.map((v) => [v.number, v.by])).toEqual([
      [2, 'Inês Rocha'],
      [1, null],
    ]);
    expect(JSON.stringify(body.versions[0]?.changes)).toMatch(/Subject: “First words” became “Other words”/);
    const old = await agent.get(`/api/sequences/${s.id}/versions/1`).expect(200);
    expect(old.body.sequence.steps[0].email.subject).toBe('First words');
    await agent.get(`/api/sequences/${s.id}/versions/7`).expect(404);
  });
});

describe('one person, several sequences', () => {
  const cap = (more: Partial<CapRules>): Partial<Sequence> => ({ list: world.list, cap: { ...plainCap, ...more } });
  const setCap = (dailyCap: number | null) => agent.put('/api/cap').send({ dailyCap }).expect(200);
  afterAll(() => setCap(null));
  const days = (who: string, from: number) =>
    Object.fromEntries(mailTo(who).map((m) => [m.subject, Math.round((m.at - from) / DAY)]));

  test('one a day: the second waits a day, one that is left out says so, service mail and a welcome always go', async () => {
    await setCap(1);
    const [a, b, c, welcome] = await Promise.all([
      begun([emailStep('A')], cap({})),
      begun([emailStep('B')], cap({})),
      begun([emailStep('C')], cap({ yields: 'skip' })),
      begun([emailStep('Welcome')], cap({ exempt: true })),
    ]);
    const service = await begun([emailStep('Receipt')]);
    const who = address();
    await world.join(who);
    const now = await world.now();
    await a.start(who);
    await world.ahead(now);
    for (const s of [b, c, welcome, service]) await s.start(who);
    await world.ahead(now + 4 * DAY);
    expect(days(who, now)).toEqual({ A: 0, B: 1, Welcome: 0, Receipt: 0 });
    expect(await story(who)).toMatch(/“B” is put off until .* they had as many emails that day/);
    expect(await story(who)).toMatch(/“C” was left out: they had as many emails that day/);
  });

  test('two at the very same moment, in one batch: still one a day', async () => {
    await setCap(1);
    const type = `both.${testId()}`;
    for (const name of ['X', 'Y'])
      await world.live({
        ...cap({}),
        name,
        triggers: [{ kind: 'event', event: type, where: [] }],
        steps: [emailStep(name)],
      });
    const who = address();
    await world.join(who);
    const now = await world.now();
    await world.event({ type, subject: who }).expect(202);
    await world.ahead(now + 3 * DAY);
    const sent = Object.values(days(who, now)).sort();
    expect(sent).toEqual([0, 1]);
  });

  test('two engines at once, each with one of the two: still one a day', async () => {
    await setCap(1);
    const type = `race.${testId()}`;
    for (const name of ['Left', 'Right'])
      await world.live({
        ...cap({}),
        name,
        triggers: [{ kind: 'event', event: type, where: [] }],
        steps: [emailStep(name)],
      });
    const now = await world.now();
    for (let round = 0; round < 10; round++) {
      const who = address();
      await world.join(who);
      await world.event({ type, subject: who }).expect(202);
      await Promise.all([advanceRound(world.connection, now, 1), advanceRound(world.connection, now, 1)]);
      await world.ahead(now);
      expect([who, mailTo(who).length]).toEqual([who, 1]);
      expect((await codes(who)).filter((c) => c === 'email-yields')).toHaveLength(1);
    }
  });

  test('one place a day: it is the higher priority’s that comes later that day; without a cap there is room for both', async () => {
    await setCap(1);
    const high = await begun([waitStep(6, 'hours'), emailStep('High')], cap({ priority: 1 }));
    const low = await begun([emailStep('Low')], cap({ priority: 4 }));
    const who = address();
    await world.join(who);
    // Midnight, so that six hours later is the same day.
    const midnight = Math.ceil((await world.now()) / DAY) * DAY + HOUR;
    await world.ahead(midnight);
    await high.start(who);
    await world.ahead(midnight);
    await low.start(who);
    await world.ahead(midnight + 3 * DAY);
    expect(mailTo(who).map((m) => [m.subject, Math.round((m.at - midnight) / HOUR)])).toEqual([
      ['High', 6],
      ['Low', 24],
    ]);
    expect(await story(who)).toMatch(new RegExp(`“Low” is put off .*“${high.type}” goes first that day`));
    await setCap(null);
    const other = address();
    await world.join(other);
    const night = Math.ceil((await world.now()) / DAY) * DAY + HOUR;
    await world.ahead(night);
    await high.start(other);
    await world.ahead(night);
    await low.start(other);
    await world.ahead(night + 3 * DAY);
    expect(mailTo(other).map((m) => [m.subject, Math.round((m.at - night) / HOUR)])).toEqual([
      ['Low', 0],
      ['High', 6],
    ]);
  });
});

describe('telling others', () => {
  const calls: { headers: IncomingMessage['headers']; body: string }[] = [];
  let fails = 0;
  const receiver = createServer((req, res) => {
    let body = '';
    req.on('data', (d: Buffer) => (body += d.toString()));
    req.on('end', () => {
      if (fails-- > 0) return void res.writeHead(503).end();
      calls.push({ headers: req.headers, body });
      res.writeHead(204).end();
    });
  });
  let port = 0;
  beforeAll(async () => {
    await new Promise<void>((done) => receiver.listen(0, '127.0.0.1', done));
    port = (receiver.address() as AddressInfo).port;
    (world.sending.allowedHosts as string[]).push(`127.0.0.1:${port}`);
  });
  afterAll(() => void receiver.close());

  test('a colleague gets a plain email with the fields filled and the person’s page behind it, once', async () => {
    const s = await begun([
      action({ type: 'tell-team', to: 'tomasz@foldwell.example', text: '{{ subscriber.email }} began.' }),
      emailStep('Hello'),
    ]);
    const who = address();
    await s.start(who);
    await world.ahead(await world.now());
    const [note] = mailTo('tomasz@foldwell.example');
    expect(mailTo('tomasz@foldwell.example')).toHaveLength(1);
    expect(note?.subject).toBe(`${s.type}: ${who}`);
    const summary = world.mailbox.store.summaries.find((m) => m.to === 'tomasz@foldwell.example');
    const source = world.mailbox.store.source(summary as never).toString();
    expect(source).toContain(`${who} began.`);
    expect(source.replace(/=\r\n/g, '')).toContain(`/people/${(await world.person(who))?.id}`);
  });

  test('a tag that one sequence adds ends at once what another waits for, and reaches its goal', async () => {
    const tagged = { kind: 'tag' as const, tag: `gilded${testId()}`, has: true };
    const waits = await begun([
      {
        id: testId(),
        kind: 'until',
        on: true,
        note: '',
        name: 'Gilded',
        condition: tagged,
        amount: 5,
        unit: 'days',
        arms: [
          { id: testId(), steps: [emailStep('Gold it is')] },
          { id: testId(), steps: [] },
        ],
      },
    ]);
    const hopes = await begun([emailStep('Will it gild'), waitStep(5), emailStep('Still hoping')], { goal: tagged });
    const gilds = await begun([
      waitStep(1),
      action({ type: 'add-tag', tag: tagged.tag }),
      waitStep(9),
      emailStep('Later'),
    ]);
    const who = address();
    for (const s of [waits, hopes, gilds]) await s.start(who);
    const now = await world.now();
    await world.ahead(now + DAY + HOUR);
    expect(subjects(who)).toEqual(['Will it gild', 'Gold it is']);
    expect(await codes(who)).toContain('goal-reached');
  });

  test('a webhook is tried again until it is taken, and the reference library of Standard Webhooks accepts its signature', async () => {
    fails = 2;
    const s = await begun([
      action({ type: 'call-webhook', url: `http://127.0.0.1:${port}/hook` }),
      emailStep('Called'),
    ]);
    const who = address();
    await s.start(who);
    const now = await world.now();
    await world.ahead(now);
    expect(calls).toHaveLength(0);
    await world.ahead(now + 7 * 60_000);
    expect(calls).toHaveLength(1);
    const { headers, body } = calls[0] as (typeof calls)[number];
    const verifier = new Webhook(webhookSecret(world.sending.secret, world.ws));
    const verified = verifier.verify(body, headers as Record<string, string>) as {
      type: string;
      data: { person: { email: string } };
    };
    expect([verified.type, verified.data.person.email]).toEqual(['sequence.step', who]);
    expect(() => verifier.verify(body.replace('step', 'leap'), headers as Record<string, string>)).toThrow();
    const kept = await rows<{ status: string; attempts: number }>(
      world.connection.db,
      sql`select status, attempts from notices where sequence_id = ${s.id}`,
    );
    expect(kept).toEqual([{ status: 'done', attempts: 3 }]);
  });

  test('addresses inside this network are refused at once, whatever their name, and the story says so', async () => {
    const s = await begun([
      action({ type: 'call-webhook', url: `http://localhost:${port}/hook` }),
      emailStep('Refused'),
    ]);
    const who = address();
    await s.start(who);
    const before = calls.length;
    await world.ahead((await world.now()) + HOUR);
    expect(calls).toHaveLength(before);
    expect(await story(who)).toMatch(/could not be reached: given up after 1 tries.*inside this network/);
  });

  test.each([
    ['127.0.0.1', false],
    ['10.1.2.3', false],
    ['172.20.0.1', false],
    ['192.168.1.1', false],
    ['169.254.169.254', false],
    ['100.64.0.1', false],
    ['0.0.0.0', false],
    ['::1', false],
    ['fe80::1', false],
    ['fd00::1', false],
    ['::ffff:10.0.0.1', false],
    ['224.0.0.1', false],
    ['93.184.216.34', true],
    ['2606:2800:220:1::1', true],
    ['::ffff:93.184.216.34', true],
  ])('%s is public: %s', (ip, open) => {
    expect(isPublic(ip)).toBe(open);
  });

  test('an answer that sends elsewhere is not followed', async () => {
    const elsewhere = createServer((_req, res) =>
      res.writeHead(302, { location: `http://127.0.0.1:${port}/hook` }).end(),
    );
    await new Promise<void>((done) => elsewhere.listen(0, '127.0.0.1', done));
    const at = `127.0.0.1:${(elsewhere.address() as AddressInfo).port}`;
    const before = calls.length;
    const answer = await callWebhook(
      `http://${at}/`,
      { id: 'x', body: '{}' },
      { secret: 's', workspace: 'w', allowed: [at] },
    );
    elsewhere.close();
    expect([answer.kind, calls.length - before]).toEqual(['later', 0]);
  });
});
