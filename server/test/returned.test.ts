import { readFileSync } from 'node:fs';
import path from 'node:path';
import { createTransport } from 'nodemailer';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { PersonAnswer } from '@ascenso/contracts';
import { DAY } from '@ascenso/core';
import { agent } from 'supertest';
import { arf, dsn, sendBack } from '../../standins/src/mailbox/returning.ts';
import { openInbox, type Inbox } from '../src/mail/inbox.ts';
import { ReportReader } from '../src/mail/reading-reports.ts';
import { readReport } from '../src/mail/reports.ts';
import { readReturnPath, returnPath } from '../src/mail/return-path.ts';
import { rows } from '../src/db/rows.ts';
import { emailStep, owner, useWorld, waitStep } from './support/world.ts';

// Examples of RFC 3464 (appendix E) and RFC 5965 (appendix B), written down from memory, in server/test/mail/.
const example = (name: string) =>
  readFileSync(path.join(import.meta.dirname, 'mail', `${name}.eml`), 'utf8').replace(/\r?\n/g, '\r\n');
const read = (text: string) => readReport(Buffer.from(text, 'latin1'));

/** Two of three failed: "not a registered gateway user", and "user unknown". */
const E2 = [
  { to: 'arathib@vnet.ibm.com', hard: true, status: '5.0.0' },
  { to: 'wsnell@sdcc13.ucsd.edu', hard: true },
];

describe('reports are read as their standards say', () => {
  test.each([
    // Given up after five days: the address may be good (RFC 3464, E.1).
    ['rfc3464-e1', { kind: 'bounce', failed: [{ hard: false, status: '4.0.0' }] }],
    // The first of several that failed: "not a registered gateway user" (E.2).
    ['rfc3464-e2', { kind: 'bounce', failed: E2 }],
    // A gateway's own code says nothing that RFC 3463 knows (E.3): it adds up.
    ['rfc3464-e3', { kind: 'bounce', failed: [{ hard: false, status: '5.0.0' }] }],
    // Only late (E.4): nothing has come back.
    ['rfc3464-e4', null],
    ['rfc5965-b1', { kind: 'complaint', type: 'abuse', named: [] }],
    ['rfc5965-b2', { kind: 'complaint', type: 'abuse', named: ['<somespammer@example.net>'] }],
  ])('%s', async (name, wanted) => {
    const report = await read(example(name));
    if (wanted === null) expect(report).toBeNull();
    else expect(report).toMatchObject(wanted);
  });

  test.each([
    ['5.1.1', '550 5.1.1 No such user', true],
    ['5.1.2', '550 5.1.2 No such host', true],
    ['5.1.10', '556 5.1.10 Takes no mail', true],
    ['5.2.1', '550 5.2.1 Mailbox disabled', true],
    ['5.2.2', '552 5.2.2 Mailbox full', false],
    ['5.7.1', '550 5.7.1 Looks like spam', false],
    ['5.1.8', "550 5.1.8 Bad sender's address", false],
    ['4.4.7', '451 4.4.7 Delivery time expired', false],
    ['5.0.0', '550 5.1.1 No such user', true],
    ['5.0.0', '554 Transaction failed', false],
  ])('status %s (%s) is final: %s', async (status, reply, hard) => {
    const text = dsn({ to: 'a@x.example', from: 'b@y.example', status, reply, original: 'Subject: x\r\n\r\n' });
    expect(await read(text)).toMatchObject({ kind: 'bounce', failed: [{ hard }] });
  });

  test('what is no report is a letter of somebody, of a machine that answers for them, or of a mail system', async () => {
    const letter = async (text: string) => {
      const report = await read(text);
      return report?.kind === 'letter' ? report.by : report;
    };
    expect(await letter('From: a@x.example\r\nSubject: Re: Hello\r\n\r\nThank you!\r\n')).toBe('person');
    expect(await letter('Auto-Submitted: auto-replied\r\nSubject: Away\r\n\r\nBack on Monday.\r\n')).toBe('answerer');
    expect(await letter('From: MAILER-DAEMON@x.example\r\nSubject: Hm\r\n\r\nWhat is this?\r\n')).toBe('system');
    const out = arf({ to: 'a@x.example', from: 'b@y.example', original: 'x: y\r\n\r\n' }).replace(
      'abuse\r',
      'not-spam\r',
    );
    expect(await read(out)).toBeNull();
    expect(await letter('\u0000\u0001--=')).toBe('person');
  });
});

test('a return path fits into an address, survives small and large letters, and cannot be made up', () => {
  const key = { workspaceId: '0193d3a8-1111-7000-8000-0123456789ab', sendId: '0193d3a8-2222-7fff-bfff-ffffffffffff' };
  const address = returnPath('secret', key, 'back.example');
  expect(address.split('@')[0]?.length).toBeLessThanOrEqual(64);
  expect(readReturnPath('secret', address.toUpperCase())).toEqual(key);
  expect(readReturnPath('secret', `<${address}>`)).toEqual(key);
  expect(readReturnPath('other', address)).toBeNull();
  for (let i = 1; i < 62; i++) {
    const changed = address.slice(0, i) + (address[i] === 'a' ? 'b' : 'a') + address.slice(i + 1);
    // The last letter holds one bit that says nothing.
    if (i < 61) expect(readReturnPath('secret', changed)).toBeNull();
  }
});

describe('by the door for returned mail', () => {
  const world = useWorld();
  let inbox: Inbox;
  const errors: unknown[] = [];
  beforeAll(async () => {
    world.sending.returnDomain = 'back.foldwell.example';
    inbox = await openInbox(
      {
        db: world.connection.db,
        secret: world.sending.secret,
        reader: new ReportReader(new URL('../dist/report-worker.js', import.meta.url)),
        onError: (e) => errors.push(e),
      },
      '127.0.0.1',
      0,
    );
    await world.live({
      name: 'Letters',
      steps: [emailStep('One'), waitStep(1), emailStep('Two'), waitStep(1), emailStep('Three')],
    });
    await world.live({
      name: 'Receipts',
      list: null,
      triggers: [{ kind: 'event', event: 'order.paid', where: [] }],
      entry: { again: 'after-leaving', days: 1, key: '', holdout: 0 },
      steps: [emailStep('Receipt')],
    });
  });
  afterAll(() => inbox.close());

  let n = 0;
  async function sent() {
    const email = `back${n++}@returned.example`;
    await world.join(email);
    await world.ahead((await world.now()) + 60_000);
    const [send] = await rows<{ id: string; person: string }>(
      world.connection.db,
      sql`select s.id, s.person_id as person from sends s join people p on p.id = s.person_id where p.email = ${email} and s.status = 'sent'`,
    );
    return {
      email,
      person: send?.person ?? '',
      to: returnPath(world.sending.secret, { workspaceId: world.ws, sendId: send?.id ?? '' }, 'back.foldwell.example'),
    };
  }
  const back = (to: string, status: string, reply: string) =>
    sendBack(
      inbox.port,
      to,
      dsn({ to: 'x@returned.example', from: to, status, reply, original: 'Subject: x\r\n\r\n' }),
    );
  const status = async (email: string) => (await world.person(email))?.mail_status;
  const mails = (email: string) =>
    world
      .mail()
      .filter((m) => m.to.includes(email))
      .map((m) => m.subject);

  test('our emails leave with a path that names them', async () => {
    const { email, to } = await sent();
    const message = world.mailbox.store.summaries.find((m) => m.to.includes(email));
    expect(world.mailbox.store.source(message as never).toString()).not.toContain(to);
    expect(readReturnPath(world.sending.secret, to)?.workspaceId).toBe(world.ws);
  });

  test('what a person writes back goes to whom answers go to, once; a holiday says nothing; what is not understood is told', async () => {
    const { email, person, to } = await sent();
    const answer = `From: Ana <${email}>\r\nSubject: Re: One\r\n\r\nDo you have it in blue? Ana\r\n`;
    await sendBack(inbox.port, to, answer);
    await sendBack(inbox.port, to, answer);
    await sendBack(
      inbox.port,
      to,
      `From: ${email}\r\nAuto-Submitted: auto-replied\r\nSubject: Away\r\n\r\nMonday.\r\n`,
    );
    await sendBack(inbox.port, to, 'From: MAILER-DAEMON@x.example\r\nSubject: Hm\r\n\r\nWhat is this?\r\n');
    expect(errors).toEqual([]);
    await world.ahead((await world.now()) + 60_000);
    const handed = world.mailbox.store.summaries.filter((m) => m.subject === 'Re: One');
    expect(handed).toHaveLength(1);
    const source = world.mailbox.store.source(handed[0] as never).toString();
    expect(source).toContain('Do you have it in blue? Ana');
    expect(source).toMatch(new RegExp(`Reply-To: <?${email}`, 'i'));
    expect(handed[0]?.to).not.toBe(email);
    expect(await status(email)).toBe('ok');
    // Nobody floods the team through the path of an email that they got.
    for (let i = 0; i < 8; i++)
      await sendBack(inbox.port, to, `From: ${email}\r\nSubject: Flood\r\n\r\nNumber ${i}.\r\n`);
    await world.ahead((await world.now()) + 60_000);
    expect(world.mailbox.store.summaries.filter((m) => m.subject === 'Flood')).toHaveLength(4);
    const ines = agent(world.app);
    await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    const { story } = (await ines.get(`/api/people/${person}`).expect(200)).body as PersonAnswer;
    expect(story.map((s) => s.text)).toContain('Something came back that is not understood: “Hm: What is this?”.');
  });

  test('a final one ends mail, service mail too, and is in the story; told twice it counts once', async () => {
    const { email, person, to } = await sent();
    await back(to, '5.1.1', '550 5.1.1 The account does not exist');
    await back(to, '5.1.1', '550 5.1.1 The account does not exist');
    expect(await status(email)).toBe('bounced');
    await world.event({ type: 'order.paid', subject: email }).expect(202);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(mails(email)).toEqual(['One']);
    expect(
      await rows(
        world.connection.db,
        sql`select count(*)::int as n from events where person_id = ${person} and name = 'email.returned'`,
      ),
    ).toEqual([{ n: 1 }]);
    const ines = agent(world.app);
    await ines.post('/api/session').send({ email: owner.email, password: owner.password }).expect(200);
    const { story } = (await ines.get(`/api/people/${person}`).expect(200)).body as PersonAnswer;
    expect(story.map((s) => s.text)).toContain(
      'An email came back for good: 5.1.1, 550 5.1.1 The account does not exist.',
    );
  });

  test('soft ones add up: the fifth ends it, each email once', async () => {
    const { email, person, to } = await sent();
    await back(to, '4.2.2', '452 4.2.2 Full');
    await back(to, '4.2.2', '452 4.2.2 Full');
    expect(await rows(world.connection.db, sql`select soft_bounces as n from people where id = ${person}`)).toEqual([
      { n: 1 },
    ]);
    await world.ahead((await world.now()) + 3 * DAY);
    expect(mails(email)).toEqual(['One', 'Two', 'Three']);
    await world.connection.db.execute(sql`update people set soft_bounces = 4 where id = ${person}`);
    const [last] = await rows<{ id: string }>(
      world.connection.db,
      sql`select id from sends where person_id = ${person} and returned_at is null limit 1`,
    );
    await back(
      returnPath(world.sending.secret, { workspaceId: world.ws, sendId: last?.id ?? '' }, 'back.foldwell.example'),
      '4.2.2',
      '452 4.2.2 Full',
    );
    expect(await status(email)).toBe('bounced');
  });

  test('a complaint stops all marketing at once, found by the path or by the way out in the original; service mail goes', async () => {
    for (const direct of [true, false]) {
      const { email, person, to } = await sent();
      const message = world.mailbox.store.summaries.find((m) => m.to.includes(email));
      const original = world.mailbox.store.source(message as never).toString('latin1');
      const report = arf({ to: email, from: direct ? to : 'unknown@elsewhere.example', original });
      await sendBack(inbox.port, direct ? to : 'feedback@back.foldwell.example', report);
      expect(await status(email)).toBe('complained');
      await world.event({ type: 'order.paid', subject: email }).expect(202);
      await world.ahead((await world.now()) + 3 * DAY);
      expect(mails(email)).toEqual(['One', 'Receipt']);
      const consent = await rows<{ how: string }>(
        world.connection.db,
        sql`select s.how from consents c join consent_sources s on s.id = c.source_id where c.person_id = ${person} and c.list_id is null`,
      );
      expect(consent).toEqual([{ how: 'complaint' }]);
    }
  });

  test('it is handed over under TLS by whoever asks for it, and an id alone ends mail only where a provider complains', async () => {
    const { email } = await sent();
    const message = world.mailbox.store.summaries.find((m) => m.to.includes(email));
    const id = message?.messageId ?? '';
    expect(id).toContain('@');
    const mail = createTransport({
      port: inbox.port,
      host: '127.0.0.1',
      requireTLS: true,
      tls: { rejectUnauthorized: false },
    });
    const hand = (raw: string) => mail.sendMail({ envelope: { from: '', to: 'feedback@back.foldwell.example' }, raw });
    const words = (type: string, of: string) =>
      `From: fbl@provider.example\r\nSubject: About\r\n\r\n${type}\r\n\r\nMessage-ID: ${of}\r\n`;
    // A failure that names it so is nobody's to tell here, nor is an id that was never given out.
    await hand(words(`Final-Recipient: rfc822; ${email}\r\nAction: failed\r\nStatus: 5.1.1`, id));
    await hand(words('Feedback-Type: abuse', id.replace(/^<......../, '<00000000')));
    expect(await status(email)).toBe('ok');
    await hand(words('Feedback-Type: abuse', id));
    expect(await status(email)).toBe('complained');
    mail.close();
  });

  test('what is not ours is refused or says nothing', async () => {
    const { email, to } = await sent();
    const before = await status(email);
    await back(`x${to.slice(1)}`, '5.1.1', '550 5.1.1 Gone');
    await back('somebody@back.foldwell.example', '5.1.1', '550 5.1.1 Gone');
    await back('feedback@back.foldwell.example', '5.1.1', '550 5.1.1 Gone');
    await sendBack(inbox.port, to, 'Subject: Re: One\r\n\r\nThank you!\r\n');
    expect(await status(email)).toBe(before);
    expect(errors).toEqual([]);
  });
});
