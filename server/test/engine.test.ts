import { sql } from 'drizzle-orm';
import { HOUR } from '@ascenso/core';
import { describe, expect, test } from 'vitest';
import { publish } from '../src/sequences/publishing.ts';
import { personStory } from '../src/db/people.ts';
import { firstRow } from '../src/db/rows.ts';
import { advanceRound } from '../src/engine/advance-loop.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { SmtpTransport } from '../src/mail/transport.ts';
import { byHand, emailStep, FRIDAY_NOON, testId, waitStep } from './support/world.ts';
import { startReceiver } from './support/receiver.ts';
import { useEngine } from './support/engine.ts';

const { world, address, mailTo, at, codes, sequenceOf } = useEngine();
const MINUTE = 60_000;
const DAY = 24 * HOUR;

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

  test('a reader who is “not now” each time is given up after the sixth try, over a day and a half, and the story says so', async () => {
    const s = await sequenceOf([emailStep('Into the void')]);
    const who = address();
    await s.start(who);
    const now = await world.now();
    const { port, close } = await startReceiver({
      onRcptTo: (_address, _session, done) => done(Object.assign(new Error('4.2.1 Not now'), { responseCode: 450 })),
    });
    const transport = new SmtpTransport(`smtp://127.0.0.1:${port}`);
    const { moveClock } = await import('../src/engine/mover.ts');
    await moveClock(world.connection, { ...world.sending, transport }, now + 40 * HOUR, null);
    transport.close();
    close();
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

  test.each(['goal', 'exit'])('the %s that comes while an email waits in the queue takes it back', async (end) => {
    const s = await sequenceOf([emailStep('Too late')], {
      [end]: { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] },
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
    const told = await firstRow<{ why: string }>(
      world.connection.db,
      sql`select t.data->>'why' as why from reasons t join people p on p.id = t.person_id where p.email = ${who} and t.code = 'email-cancelled'`,
    );
    expect(told?.why).toBe(end);
  });

  test('who leaves the list that a sequence mails under gets nothing more of it, but goes on with others', async () => {
    const other = await world.addList(world.ws, 'Course');
    const type = `lesson.begun.${testId()}`;
    await world.join('somebody@readers.example', { lists: [other] });
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
    const { setMembership } = await import('../src/people/memberships.ts');
    const person = (await world.person(who))?.id as string;
    const now = await world.now();
    await world.connection.db.transaction((tx) => setMembership(tx, world.ws, person, other, 'confirmed', now, byHand));
    await world.event({ type, subject: who }).expect(202);
    await world.connection.db.transaction((tx) => setMembership(tx, world.ws, person, world.list, 'left', now, byHand));
    await world.ahead(now + 2 * DAY);
    expect(mailTo(who).map((m) => m.subject)).toEqual(['Lessons']);
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

test('the worlds of these tests begin on a Friday at noon', () => {
  expect(new Date(FRIDAY_NOON).getUTCDay()).toBe(5);
});
