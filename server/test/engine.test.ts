import { sql } from 'drizzle-orm';
import { HOUR, plainEntry, type Sequence, type Step } from '@ascenso/core';
import request from 'supertest';
import { describe, expect, test } from 'vitest';
import { pendingChanges, publish } from '../src/api/publishing.ts';
import { firstRow, rows } from '../src/db/rows.ts';
import { personStory } from '../src/db/people.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { clockState } from '../src/app/clock.ts';
import { startLoops } from '../src/engine/loops.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { SmtpTransport } from '../src/mail/transport.ts';
import { emailStep, FRIDAY_NOON, testId, useWorld, waitStep } from './support/world.ts';

const world = useWorld();
const MINUTE = 60_000;
const DAY = 24 * HOUR;
let counter = 0;
const address = (domain = 'readers.example') => `reader${++counter}@${domain}`;
const mailTo = (email: string) => world.mail().filter((m) => m.to === email);
const at = (email: string) => mailTo(email).map((m) => new Date(m.at).toISOString().slice(0, 16));
const codes = async (email: string) => (await world.trace(email)).map((t) => t.code);

/** A sequence of its own event, so that the tests here do not meet. */
async function sequenceOf(
  steps: Step[],
  more: object = {},
): Promise<{ start: (email: string, data?: Record<string, unknown>) => Promise<void>; id: string }> {
  const type = `kit.bought${++counter}`;
  const id = await world.live({
    name: type,
    list: null,
    triggers: [{ kind: 'event', event: type, where: [] }],
    steps,
    ...more,
  });
  return { id, start: async (subject, data = {}) => void (await world.event({ type, subject, data }).expect(202)) };
}

describe('the moment at which an email goes out', () => {
  test('a day later is the same time of day across the change of clocks; 24 hours later is not (Lisbon, 29 March 2026)', async () => {
    await world.stand(Date.UTC(2026, 2, 28, 19));
    const days = await sequenceOf([waitStep(1), emailStep('Days')]);
    const hours = await sequenceOf([waitStep(24, 'hours'), emailStep('Hours')]);
    const [a, b] = [address(), address()];
    await days.start(a);
    await hours.start(b);
    await world.ahead(Date.UTC(2026, 2, 30));
    expect(at(a)).toEqual(['2026-03-29T18:00']);
    expect(at(b)).toEqual(['2026-03-29T19:00']);
  });

  test('a window holds it in the reader’s own zone; who has none is read in the workspace’s, and the story says so', async () => {
    const now = Date.UTC(2026, 3, 3, 20); // Friday evening in Lisbon
    await world.stand(now);
    const email = emailStep('Weekdays from eight');
    email.window = { days: [1, 2, 3, 4, 5], from: 480, to: 1080 };
    const s = await sequenceOf([email]);
    const [tokyo, unknown] = [address(), address()];
    await world.join(tokyo, { zone: 'Asia/Tokyo' });
    await s.start(tokyo);
    await s.start(unknown);
    await world.ahead(now + 5 * DAY);
    // Monday 6 April, 8:00 in Tokyo is Sunday 23:00 UTC; in Lisbon, on summer time, 7:00 UTC.
    expect(at(tokyo)).toEqual(['2026-04-05T23:00']);
    expect(at(unknown)).toEqual(['2026-04-06T07:00']);
    const story = await personStory(
      world.connection.db,
      world.ws,
      (await world.person(unknown))?.id as string,
      'Europe/Lisbon',
    );
    expect(story.story.map((e) => e.text).join('\n')).toMatch(
      /is held until Mon 6 Apr, 08:00 in Lisbon \(assumed: no time zone is known\)/,
    );
  });

  test('an engine that was away for hours asks the window again, and later steps count from the real moment', async () => {
    const noon = Date.UTC(2026, 3, 8, 11);
    await world.stand(noon);
    const email = emailStep('Until two');
    email.window = { days: [0, 1, 2, 3, 4, 5, 6], from: 720, to: 840 }; // 12:00 to 14:00 in Lisbon
    const s = await sequenceOf([email, waitStep(1), emailStep('A day after')]);
    const who = address();
    await s.start(who);
    await world.stand(noon + 4 * HOUR);
    await world.ahead(noon + 4 * DAY);
    expect(at(who)).toEqual(['2026-04-09T11:00', '2026-04-10T11:00']);
  });

  test('a short lag does not drift the schedule: the planned moment counts', async () => {
    const now = Date.UTC(2026, 3, 13, 9);
    await world.stand(now);
    const s = await sequenceOf([emailStep('Now'), waitStep(1), emailStep('Tomorrow')]);
    const who = address();
    await s.start(who);
    await world.stand(now + 40 * MINUTE);
    await world.ahead(now + 2 * DAY);
    expect(at(who)).toEqual(['2026-04-13T09:00', '2026-04-14T09:00']);
  });
});

describe('what the receiving server says', () => {
  test('an address that does not exist bounces once, is never mailed again, and the story tells', async () => {
    const s = await sequenceOf([emailStep('One'), waitStep(1), emailStep('Two')]);
    const gone = address('gone.example');
    await s.start(gone);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(mailTo(gone)).toEqual([]);
    expect((await world.person(gone))?.mail_status).toBe('bounced');
    expect(await codes(gone)).toEqual(['entered', 'email-sent', 'wait-begun', 'email-bounced', 'mail-stopped']);
    const tries = await firstRow<{ n: number }>(
      world.connection.db,
      sql`select count(*) as n from sends s join people p on p.id = s.person_id where p.email = ${gone}`,
    );
    expect(tries?.n).toBe(1);
  });

  test('a busy one is tried again five minutes later with the same message, and nothing after it shifts', async () => {
    const s = await sequenceOf([emailStep('One'), waitStep(1), emailStep('Two')]);
    const busy = address('busy.example');
    const now = await world.now();
    await s.start(busy);
    await world.ahead(now);
    expect(mailTo(busy)).toEqual([]);
    await world.ahead(now + 5 * MINUTE - 1);
    expect(mailTo(busy)).toEqual([]);
    await world.ahead(now + 5 * MINUTE);
    expect(mailTo(busy)).toHaveLength(1);
    await world.ahead(now + DAY);
    expect(mailTo(busy).map((m) => m.at)).toEqual([now, now + DAY]);
  });

  test('a server that never answers is given up after the sixth try, over a day and a half, and the story says so', async () => {
    const s = await sequenceOf([emailStep('Into the void')]);
    const who = address();
    await s.start(who);
    const now = await world.now();
    const dead = { ...world.sending, transport: new SmtpTransport('smtp://127.0.0.1:1') };
    const { moveClock } = await import('../src/engine/mover.ts');
    await moveClock(world.connection, dead, now + 40 * HOUR, null);
    expect(mailTo(who)).toEqual([]);
    const send = await firstRow<{ status: string; attempts: number }>(
      world.connection.db,
      sql`select s.status, s.attempts from sends s join people p on p.id = s.person_id where p.email = ${who}`,
    );
    expect(send).toEqual({ status: 'failed', attempts: 6 });
    expect((await codes(who)).at(-1)).toBe('email-failed');
  });
});

describe('what stops an email', () => {
  test('pausing holds what is queued and who is inside; resuming lets them go on', async () => {
    const s = await sequenceOf([emailStep('One'), waitStep(1), emailStep('Two')]);
    const who = address();
    const now = await world.now();
    await s.start(who);
    await advanceRound(world.connection, now);
    await world.connection.db.execute(sql`update sequences set status = 'paused' where id = ${s.id}`);
    await world.ahead(now + 3 * DAY);
    expect(mailTo(who)).toEqual([]);
    // A new version does not let go what was paused: nobody would have asked for it.
    await world.connection.db.transaction((tx) => publish(tx, world.ws, s.id, 0, null, now + 3 * DAY));
    await world.ahead(now + 3 * DAY);
    expect(mailTo(who)).toEqual([]);
    await world.connection.db.execute(sql`update sequences set status = 'live' where id = ${s.id}`);
    await world.ahead(now + 3 * DAY);
    expect(mailTo(who).map((m) => m.subject)).toEqual(['One', 'Two']);
  });

  test('a goal reached while an email waits in the queue takes it back', async () => {
    const s = await sequenceOf([emailStep('Too late')], {
      goal: { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] },
    });
    const who = address();
    const now = await world.now();
    await s.start(who);
    await world.stand(now + 1);
    await advanceRound(world.connection, now + 1);
    await world.event({ type: 'order.paid', subject: who, time: now + 1 }).expect(202);
    await sendRound(world.connection, world.sending, now + 1);
    await world.ahead(now + HOUR);
    const send = await firstRow<{ status: string }>(
      world.connection.db,
      sql`select s.status from sends s join people p on p.id = s.person_id where p.email = ${who}`,
    );
    expect(mailTo(who)).toEqual([]);
    expect((await codes(who)).at(-1)).toBe('email-cancelled');
    expect(send?.status).toBe('cancelled');
  });

  test('who leaves the list that a sequence mails under gets nothing more of it, but goes on with others', async () => {
    const other = await world.addList(world.ws, 'Course');
    const type = `lesson.begun${++counter}`;
    for (const [name, list] of [
      ['Letters', world.list],
      ['Lessons', other],
    ] as const)
      await world.live({
        name,
        list,
        triggers: [{ kind: 'event', event: type, where: [] }],
        steps: [waitStep(1), emailStep(name)],
      });
    const who = address();
    await world.join(who);
    const { setMembership } = await import('../src/intake/changes.ts');
    const person = (await world.person(who))?.id as string;
    const now = await world.now();
    await world.connection.db.transaction((tx) => setMembership(tx, world.ws, person, other, 'confirmed', now));
    await world.event({ type, subject: who }).expect(202);
    await world.connection.db.transaction((tx) => setMembership(tx, world.ws, person, world.list, 'left', now));
    await world.ahead(now + 2 * DAY);
    expect(mailTo(who).map((m) => m.subject)).toEqual(['Lessons']);
  });
});

describe('branches, tags and filters', () => {
  test('a branch on an email of the sequence takes who opened it one way, who did not the other', async () => {
    const first = emailStep('Guide');
    const arm = (name: string) => [emailStep(name)];
    const s = await sequenceOf([
      first,
      waitStep(2),
      {
        id: testId(),
        on: true,
        note: '',
        kind: 'branch',
        name: 'Opened it',
        arms: [
          {
            id: testId(),
            condition: { kind: 'email', step: first.id, what: 'opened', did: true },
            steps: arm('You read it'),
          },
          { id: testId(), condition: null, steps: arm('You may have missed it') },
        ],
      },
      { id: testId(), on: true, note: '', kind: 'action', action: { type: 'add-tag', tag: 'guide-done' } },
    ] as Step[]);
    const [reader, silent] = [address(), address()];
    await s.start(reader);
    await s.start(silent);
    const now = await world.now();
    await world.ahead(now + HOUR);
    await world.connection.db.execute(
      sql`update sends s set opened_at = ${now + HOUR} from people p where p.id = s.person_id and p.email = ${reader}`,
    );
    await world.ahead(now + 3 * DAY);
    expect(mailTo(reader).map((m) => m.subject)).toEqual(['Guide', 'You read it']);
    expect(mailTo(silent).map((m) => m.subject)).toEqual(['Guide', 'You may have missed it']);
    expect((await world.person(reader))?.tags).toEqual(['guide-done']);
  });

  test('a wait for a click ends with the click on that link, through the tracking door, and with no other', async () => {
    const first = emailStep('Lesson one', { address: 'https://foldwell.example/lessons/1' });
    const clicked = {
      kind: 'email' as const,
      step: first.id,
      what: 'clicked' as const,
      link: 'https://foldwell.example/lessons/1',
      did: true,
    };
    const s = await sequenceOf([
      first,
      {
        id: testId(),
        on: true,
        note: '',
        kind: 'until',
        name: '',
        condition: clicked,
        amount: 2,
        unit: 'days',
        arms: [
          { id: testId(), steps: [emailStep('Lesson two')] },
          { id: testId(), steps: [emailStep('Did you get it?')] },
        ],
      },
    ]);
    const [reader, silent] = [address(), address()];
    await s.start(reader);
    await s.start(silent);
    const now = await world.now();
    await world.ahead(now + HOUR);
    const html = world.mailbox.store
      .source(world.mailbox.store.summaries.filter((m) => m.to === reader).at(-1) as never)
      .toString();
    const link = /\/c\/[\w=-]+?\/0/.exec(html.replaceAll('=\r\n', ''))?.[0] as string;
    await request(world.app).get(link).expect(302);
    await world.ahead(now + 3 * DAY);
    expect(mailTo(reader).map((m) => [m.subject, m.at])).toEqual([
      ['Lesson one', now],
      ['Lesson two', now + HOUR],
    ]);
    expect(mailTo(silent).map((m) => [m.subject, m.at])).toEqual([
      ['Lesson one', now],
      ['Did you get it?', now + 2 * DAY],
    ]);
    expect(await codes(reader)).toContain('until-happened');
  });

  test('actions put on lists, take off, and set values; two sequences that start each other come to an end', async () => {
    const [ping, pong] = [await world.addList(world.ws, 'Ping'), await world.addList(world.ws, 'Pong')];
    const action = (a: object): Step => ({ id: testId(), on: true, note: '', kind: 'action', action: a }) as Step;
    for (const [here, there] of [
      [ping, pong],
      [pong, ping],
    ] as const)
      await world.live({
        name: `On ${here}`,
        list: null,
        entry: { ...plainEntry, again: 'after-leaving' },
        triggers: [{ kind: 'list', list: here, what: 'joined' }],
        steps: [
          action({ type: 'leave-list', list: here }),
          action({ type: 'join-list', list: there }),
          emailStep('On the list'),
        ],
      });
    const s = await sequenceOf([
      action({ type: 'set-attribute', key: 'orders', value: 3 }),
      action({ type: 'join-list', list: ping }),
      emailStep('Begun'),
    ]);
    const who = address();
    await s.start(who);
    await world.ahead(await world.now());
    const told = await codes(who);
    // The first visit, and eight more in the chain that it began.
    expect(told.filter((c) => c === 'entered')).toHaveLength(9);
    expect(told.filter((c) => c === 'list-joined')).toHaveLength(9);
    const person = await firstRow<{ attributes: object }>(
      world.connection.db,
      sql`select attributes from people where email = ${who}`,
    );
    expect(person?.attributes).toEqual({ orders: 3 });
  });

  test('who does not pass the entry filter does not enter, and their page says why', async () => {
    const type = `kit.seen${++counter}`;
    await world.live({
      name: type,
      list: null,
      triggers: [{ kind: 'event', event: type, where: [] }],
      steps: [emailStep('Kit')],
      filter: { kind: 'attribute', test: { field: 'orders', op: 'over', value: 1 } },
    });
    const [new_, seasoned] = [address(), address()];
    await world.join(new_, { attributes: { orders: 1 } });
    await world.join(seasoned, { attributes: { orders: 2 } });
    for (const subject of [new_, seasoned]) await world.event({ type, subject }).expect(202);
    await world.ahead(await world.now());
    expect([mailTo(new_).length, mailTo(seasoned).length]).toEqual([0, 1]);
    const story = await personStory(
      world.connection.db,
      world.ws,
      (await world.person(new_))?.id as string,
      'Europe/Lisbon',
    );
    expect(story.story.map((e) => e.text)).toContain(
      'Did not enter: only somebody who has a value for orders that is over 1 may.',
    );
  });

  test('an email for some only is passed over by the others, who go on', async () => {
    const some = emailStep('For teachers');
    some.forWhom = { kind: 'tag', tag: 'teacher', has: true };
    const s = await sequenceOf([some, emailStep('For all')]);
    const who = address();
    await s.start(who);
    await world.ahead(await world.now());
    expect(mailTo(who).map((m) => m.subject)).toEqual(['For all']);
    expect(await codes(who)).toContain('email-skipped');
  });

  test.each([
    [{ total: 30 }, 1],
    [{ total: 25 }, 0],
    // Many shops send their numbers as text.
    [{ total: '30' }, 1],
    [{}, 0],
  ])('an event with a filter on its payload starts for %j: %i email', async (data, count) => {
    const type = `checkout.left${++counter}`;
    await world.live({
      name: type,
      list: null,
      triggers: [{ kind: 'event', event: type, where: [{ field: 'total', op: 'over', value: 25 }] }],
      steps: [emailStep('Left')],
    });
    const who = address();
    await world.event({ type, subject: who, data }).expect(202);
    await world.ahead(await world.now());
    expect(mailTo(who)).toHaveLength(count);
  });
});

describe('publishing while people are inside', () => {
  const first = emailStep('Hello');
  const wait = waitStep(4);
  const second = emailStep('Old words');
  const last = emailStep('Goodbye');

  /** Somebody a day into the sequence when a new version of it is published; answers what they then get. */
  async function published(inside: 'finish' | 'carry-on' | 'leave', change: (steps: Step[]) => Step[]) {
    const s = await sequenceOf([first, wait, second, waitStep(1), last]);
    const early = address();
    const begun = await world.now();
    await s.start(early);
    await world.ahead(begun + DAY);
    const { db } = world.connection;
    const row = await firstRow<{ draft: Sequence }>(db, sql`select draft from sequences where id = ${s.id}`);
    const draft = { ...(row as { draft: Sequence }).draft, steps: change((row as { draft: Sequence }).draft.steps) };
    await db.execute(
      sql`update sequences set draft = ${JSON.stringify(draft)}::jsonb, revision = 1 where id = ${s.id}`,
    );
    const told = await pendingChanges(db, world.ws, s.id, 'Europe/Lisbon');
    await db.transaction((tx) => publish(tx, world.ws, s.id, 1, null, begun + DAY, inside));
    const later = address();
    await s.start(later);
    await world.ahead(begun + 12 * DAY);
    const got = (who: string) => mailTo(who).map((m) => [m.subject, (m.at - begun) / DAY]);
    return { told, early: got(early), later: got(later), codes: await codes(early) };
  }
  const reworded = (steps: Step[]): Step[] =>
    steps.map((s) =>
      s.id === second.id && s.kind === 'email'
        ? { ...s, email: { ...s.email, subject: 'New words' } }
        : s.id === wait.id
          ? { ...wait, amount: 2 }
          : s,
    );

  test('they finish on their version: old words at the old times; who enters later gets the new ones', async () => {
    const { early, later } = await published('finish', reworded);
    expect(early).toEqual([
      ['Hello', 0],
      ['Old words', 4],
      ['Goodbye', 5],
    ]);
    expect(later).toEqual([
      ['Hello', 1],
      ['New words', 3],
      ['Goodbye', 4],
    ]);
  });

  test('they carry on: the shorter wait counts from when they began it, and nothing is sent twice', async () => {
    const { early, codes: told } = await published('carry-on', (steps) => [...reworded(steps).slice(1), first]);
    expect(early).toEqual([
      ['Hello', 0],
      ['New words', 2],
      ['Goodbye', 3],
    ]);
    expect(told).toEqual(expect.arrayContaining(['carried-over', 'email-repeat']));
  });

  test('they carry on from the next step that is left when theirs is gone', async () => {
    const { early } = await published('carry-on', (steps) =>
      steps.filter((s) => s.id !== wait.id && s.id !== second.id),
    );
    expect(early).toEqual([
      ['Hello', 0],
      ['Goodbye', 2],
    ]);
  });

  test('they leave: nothing more comes, and their page says why', async () => {
    const { early, codes: told } = await published('leave', reworded);
    expect(early).toEqual([['Hello', 0]]);
    expect(told.at(-1)).toBe('left-by-publishing');
  });

  test('before publishing it is told what changes, and how many people stand where', async () => {
    const { told } = await published('finish', (steps) => reworded(steps).filter((s) => s.id !== last.id));
    expect(told.inside).toBe(1);
    expect(told.touched).toEqual({ [wait.id]: 1 });
    expect(told.changes.map((c) => [c.kind, c.title, ...c.words])).toEqual([
      ['changed', '2 days later', 'Wait: 4 days became 2 days.'],
      ['changed', 'Old words', 'Subject: “Old words” became “New words”.'],
      ['removed', 'Goodbye'],
    ]);
  });
});

test('an email is shown as it was sent, whatever has changed about the person since', async () => {
  const s = await sequenceOf([emailStep('Dear {{ subscriber.first_name | default: "reader" }}')]);
  const who = address();
  await world.join(who, { attributes: { first_name: 'Marta' } });
  await s.start(who);
  await world.ahead(await world.now());
  await world.join(who, { attributes: { first_name: 'Martha' } });
  const send = await firstRow<{ id: string }>(
    world.connection.db,
    sql`select s.id from sends s join people p on p.id = s.person_id where p.email = ${who}`,
  );
  const { agent } = await import('supertest');
  const own = agent(world.app);
  await own.post('/api/session').send({ email: 'ines@foldwell.example', password: 'fold-along-the-grain' }).expect(200);
  const shown = await own.get(`/api/sends/${send?.id}`).expect(200);
  expect(shown.body.subject).toBe('Dear Marta');
  expect(shown.body.html).toContain('Hello Marta,');
  // Looking at it counts neither as an opening nor as a click.
  expect(shown.body.html).not.toMatch(/\/[oc]\/[\w-]+/);
});

test('however many processes run, moving the clock sends the same emails at the same moments, in order', async () => {
  const s = await sequenceOf([
    emailStep('One'),
    waitStep(6, 'hours'),
    emailStep('Two'),
    waitStep(1),
    emailStep('Three'),
  ]);
  const begun = await world.now();
  const people = Array.from({ length: 40 }, () => address());
  for (const [i, who] of people.entries()) {
    await world.stand(begun + i * MINUTE);
    await s.start(who);
  }
  await world.stand(begun);
  const before = world.mail().length;
  const others = Array.from({ length: 3 }, () =>
    startLoops(world.connection, world.sending, (e) => {
      throw e as Error;
    }),
  );
  try {
    await world.ahead(begun + 3 * DAY);
  } finally {
    await Promise.all(others.map((stop) => stop()));
  }
  const mail = world.mail().slice(before);
  expect(mail).toHaveLength(120);
  for (const [i, who] of people.entries()) {
    const own = mail.filter((m) => m.to === who);
    const entered = begun + i * MINUTE;
    expect(own.map((m) => [m.subject, m.at])).toEqual([
      ['One', entered],
      ['Two', entered + 6 * HOUR],
      ['Three', entered + 6 * HOUR + DAY],
    ]);
  }
  // In order: nothing due later was handed over before something due earlier.
  expect(mail.map((m) => m.at)).toEqual(mail.map((m) => m.at).sort((a, b) => a - b));
  const doubled = await rows(
    world.connection.db,
    sql`select visit_id, step from sends where visit_id is not null group by 1, 2 having count(*) > 1`,
  );
  expect(doubled).toEqual([]);
});

test('a clock cannot be moved twice at once, and a real one not at all', async () => {
  const now = await world.now();
  let release = () => {};
  const held = new Promise<void>((resolve) => (release = resolve));
  let arrived = () => {};
  const moving = new Promise<void>((resolve) => (arrived = resolve));
  const first = world.ahead(now + DAY, {
    act: async () => {
      arrived();
      await held;
      return { acted: 0, nextAt: null };
    },
  });
  await moving;
  expect((await clockState(world.connection.db)).moving).toBe(true);
  await expect(world.ahead(now + DAY)).rejects.toThrow('already being moved');
  release();
  await first;
  expect(await clockState(world.connection.db)).toMatchObject({ moving: false, now: now + DAY });
  await world.connection.db.execute(sql`update installation set practice = false`);
  await expect(world.ahead(now + 2 * DAY)).rejects.toThrow('real clock');
  await world.connection.db.execute(sql`update installation set practice = true`);
});

test('the worlds of these tests begin on a Friday at noon', () => {
  expect(new Date(FRIDAY_NOON).getUTCDay()).toBe(5);
});
