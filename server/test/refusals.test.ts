import { sql } from 'drizzle-orm';
import type { SMTPServerOptions } from 'smtp-server';
import { afterEach, describe, expect, test } from 'vitest';
import { firstRow, rows } from '../src/db/rows.ts';
import { letSenderGo } from '../src/engine/senders.ts';
import { sendRound } from '../src/engine/send-loop.ts';
import { enhancedOf, faultOf, type Fault, type Stage } from '../src/mail/refusal.ts';
import { SmtpTransport } from '../src/mail/transport.ts';
import { startReceiver } from './support/receiver.ts';
import { emailStep, useWorld } from './support/world.ts';

// How a receiving server's no is read. The words are those of RFC 5321 (reply codes), RFC 3463 (enhanced codes) and RFC
// 7504; what follows from them is the need: only "this mailbox is not there, for good" says anything of a person.
const CASES: [Stage, string, Fault][] = [
  ['rcpt', '550 5.1.1 Bad destination mailbox address', 'mailbox'],
  ['rcpt', '550 5.1.2 Bad destination system address', 'mailbox'],
  ['rcpt', '553 5.1.3 Bad destination mailbox address syntax', 'mailbox'],
  ['rcpt', '551 5.1.6 Destination mailbox has moved, no forwarding address', 'mailbox'],
  ['rcpt', '556 5.1.10 Recipient address has null MX', 'mailbox'],
  ['rcpt', '550 5.2.1 Mailbox disabled, not accepting messages', 'mailbox'],
  ['rcpt', '550 Requested action not taken: mailbox unavailable', 'mailbox'],
  ['rcpt', '551 User not local', 'mailbox'],
  ['rcpt', '553 Requested action not taken: mailbox name not allowed', 'mailbox'],
  ['rcpt', '556 Domain does not accept mail', 'mailbox'],
  // Full, or not now: it takes mail again one day.
  ['rcpt', '452 4.2.2 Mailbox full', 'later'],
  ['rcpt', '552 5.2.2 Mailbox full', 'later'],
  ['rcpt', '552 Requested mail action aborted: exceeded storage allocation', 'later'],
  ['rcpt', '450 4.7.1 Greylisted, come back later', 'later'],
  ['rcpt', '451 Requested action aborted: local error in processing', 'later'],
  ['message', '552 5.2.2 Mailbox full', 'later'],
  // Policy, at any command.
  ['rcpt', '550 5.7.1 Delivery not authorized, message refused', 'email'],
  ['rcpt', '554 5.7.1 Client host blocked', 'email'],
  ['message', '550 5.7.1 Message contains spam', 'email'],
  ['message', '554 5.6.0 Other or undefined media error', 'email'],
  ['message', '552 5.3.4 Message too big for system', 'email'],
  ['message', '554 Transaction failed', 'email'],
  // Even with the words of a missing mailbox: after RCPT it was taken (architecture, 24).
  ['message', '550 5.1.1 Bad destination mailbox address', 'email'],
  ['rcpt', '554 Transaction failed', 'email'],
  ['rcpt', '503 5.5.1 Bad sequence of commands', 'email'],
  // The sender.
  ['mail', '550 5.1.8 Bad sender’s system address', 'sender'],
  ['mail', '553 5.1.7 Bad sender’s mailbox address syntax', 'sender'],
  ['mail', '550 5.7.1 Sender refused', 'sender'],
  ['rcpt', '550 5.1.8 Bad sender’s system address', 'sender'],
  ['message', '550 5.1.8 Bad sender’s system address', 'sender'],
  ['rcpt', '550 5.7.27 Sender address has null MX', 'sender'],
  // The session.
  ['mail', '530 5.7.0 Must issue a STARTTLS command first', 'session'],
  ['mail', '530 5.7.0 Authentication required', 'session'],
  ['rcpt', '530 5.7.0 Must issue a STARTTLS command first', 'session'],
  ['connect', '421 4.3.2 System not accepting network messages', 'session'],
  ['greeting', '554 No SMTP service here', 'session'],
  ['hello', '550 Access denied', 'session'],
  ['login', '535 5.7.8 Authentication credentials invalid', 'session'],
];

test.each(CASES)('%s: %s', (stage, reply, fault) => {
  const code = Number(reply.slice(0, 3));
  expect(faultOf({ stage, code, enhanced: enhancedOf(code, reply) })).toBe(fault);
});

test('an enhanced code of another class than its reply is none (RFC 2034, 4)', () => {
  expect(enhancedOf(550, '550 4.1.1 what')).toBeNull();
  expect(enhancedOf(550, '550 5.1.1x what')).toBeNull();
});

const world = useWorld();
const closing: (() => void)[] = [];
afterEach(() => closing.splice(0).forEach((close) => close()));

const failure = (text: string) => Object.assign(new Error(text.slice(4)), { responseCode: Number(text.slice(0, 3)) });

/** A receiving server that refuses as it is told, and a transport to it. */
async function refusing(options: SMTPServerOptions) {
  const { taken, port, close } = await startReceiver(options);
  const transport = new SmtpTransport(`smtp://127.0.0.1:${port}`);
  closing.push(() => {
    transport.close();
    close();
  });
  return { taken, settings: { ...world.sending, transport } };
}

let n = 0;
/** A reader for whom an email is queued. */
async function queued(count = 1): Promise<string[]> {
  const name = `refused${++n}`;
  await world.live({
    name,
    triggers: [{ kind: 'event', event: name, where: [] }],
    steps: [emailStep(name)],
  });
  const people = Array.from({ length: count }, (_, i) => `${name}-${i}@readers.example`);
  for (const who of people) {
    await world.join(who);
    await world.event({ type: name, subject: who }).expect(202);
  }
  const { advanceRound } = await import('../src/engine/advance-loop.ts');
  await advanceRound(world.connection, await world.now());
  return people;
}
const sendsOf = (people: readonly string[]) =>
  rows<{ status: string; mail_status: string; attempts: number }>(
    world.connection.db,
    sql`select s.status, p.mail_status, s.attempts from sends s join people p on p.workspace_id = s.workspace_id and p.id = s.person_id where p.email = any (${sql.param(people)}::text[]) order by p.email`,
  );

describe('through a server that says so', () => {
  const ways: [string, SMTPServerOptions, object][] = [
    [
      'every session wants STARTTLS first: nobody is silenced by that',
      { onMailFrom: (_a, _s, done) => done(failure('530 5.7.0 Must issue a STARTTLS command first')) },
      { status: 'queued', mail_status: 'ok', attempts: 0 },
    ],
    [
      'a sender that is not wanted, before any reader is named: no try of this email',
      { onMailFrom: (_a, _s, done) => done(failure('550 5.7.1 Sender blocked')) },
      { status: 'queued', mail_status: 'ok', attempts: 0 },
    ],
    [
      'a sender that is not wanted just now',
      { onMailFrom: (_a, _s, done) => done(failure('451 4.3.0 Try again later')) },
      { status: 'queued', mail_status: 'ok', attempts: 0 },
    ],
    [
      'no such mailbox',
      { onRcptTo: (_a, _s, done) => done(failure('550 5.1.1 No such user')) },
      { status: 'bounced', mail_status: 'bounced', attempts: 1 },
    ],
    [
      'policy at RCPT, before the message is seen, is tried again',
      { onRcptTo: (_a, _s, done) => done(failure('550 5.7.1 Blocked by policy')) },
      { status: 'queued', mail_status: 'ok', attempts: 1 },
    ],
    [
      'content after DATA',
      {
        onData: (stream, _s, done) => {
          stream.on('end', () => done(failure('554 5.7.1 Looks like spam')));
          stream.resume();
        },
      },
      { status: 'failed', mail_status: 'ok', attempts: 1 },
    ],
    [
      'a full mailbox is tried again',
      { onRcptTo: (_a, _s, done) => done(failure('552 5.2.2 Mailbox full')) },
      { status: 'queued', mail_status: 'ok', attempts: 1 },
    ],
    [
      'a greeting that refuses',
      { onConnect: (_s, done) => done(failure('554 No service for you')) },
      { status: 'queued', mail_status: 'ok', attempts: 0 },
    ],
  ];
  test.each(ways)('%s', async (_name, options, expected) => {
    const { settings } = await refusing(options);
    const people = await queued();
    await sendRound(world.connection, settings, await world.now());
    expect(await sendsOf(people)).toEqual([expected]);
    // What came of it does not wait for the next test.
    await world.connection.db.execute(sql`update sends set status = 'cancelled' where status = 'queued'`);
    await world.connection.db.execute(sql`delete from sender_health`);
    await world.connection.db.execute(sql`delete from mail_service`);
  });
});

test('after ten refusals in a row a sender’s mail waits, and goes on when somebody lets it', async () => {
  let refuses = true;
  const { settings, taken } = await refusing({
    onMailFrom: (_a, _s, done) => done(refuses ? failure('550 5.7.1 Sender blocked') : null),
  });
  const one = { ...settings, parallel: 1 };
  const people = await queued(14);
  const now = await world.now();
  await sendRound(world.connection, one, now, 10);
  await sendRound(world.connection, one, now);
  const after = await sendsOf(people);
  expect(after.filter((s) => s.status === 'queued' && s.attempts === 0)).toHaveLength(14);
  expect(after.every((s) => s.mail_status === 'ok')).toBe(true);
  // Time does not bring it back, and new mail of the sender waits too.
  const later = await queued();
  await sendRound(world.connection, one, now + 60 * 86_400_000);
  expect((await sendsOf([...people, ...later])).filter((s) => s.status === 'queued')).toHaveLength(15);
  refuses = false;
  const gone = await world.connection.db.transaction((tx) => letSenderGo(tx, world.ws, 'ines@foldwell.example', now));
  expect(gone).toBe(15);
  await sendRound(world.connection, one, now);
  expect(taken).toHaveLength(15);
});

test('a server that refuses every other email halts nobody: ten in a row is what counts', async () => {
  let count = 0;
  const { settings } = await refusing({
    onData: (stream, _s, done) => {
      stream.on('end', () => done(++count % 2 === 0 ? null : failure('554 5.7.1 Looks like spam')));
      stream.resume();
    },
  });
  await world.connection.db.execute(sql`delete from sender_health`);
  const people = await queued(40);
  await sendRound(world.connection, { ...settings, parallel: 1 }, await world.now());
  expect((await sendsOf(people)).filter((s) => s.status === 'sent')).toHaveLength(20);
  expect((await sendsOf(people)).filter((s) => s.status === 'queued')).toEqual([]);
});

test('one that is taken in between begins the row anew', async () => {
  let count = 0;
  const { settings } = await refusing({
    onMailFrom: (_a, _s, done) => done(++count === 6 ? null : failure('550 5.7.1 Sender blocked')),
  });
  const one = { ...settings, parallel: 1 };
  await queued(12);
  const now = await world.now();
  await sendRound(world.connection, one, now, 6);
  await sendRound(world.connection, one, now, 6);
  const health = await firstRow<{ refusals: number; halted_at: number | null }>(
    world.connection.db,
    sql`select refusals, halted_at from sender_health where workspace_id = ${world.ws}`,
  );
  expect(health).toEqual({ refusals: 6, halted_at: null });
});
