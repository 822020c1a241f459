import path from 'node:path';
import { sql } from 'drizzle-orm';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { sendBack } from '../../standins/src/mailbox/returning.ts';
import { openInbox, type Inbox } from '../src/mail/inbox.ts';
import { ReportReader } from '../src/mail/reading-reports.ts';
import { returnPath } from '../src/mail/return-path.ts';
import { rows } from '../src/db/rows.ts';
import { emailStep, useWorld } from './support/world.ts';

// What comes back in the wild, in as many styles as there are mail systems: written for this test, after the shapes that
// RFC 3464, 5965, 6533 and 3834 allow and that are common besides (common practice, from memory).

/** One email of ours: whom it went to, where it comes back to, and its source. */
interface Ours {
  to: string;
  path: string;
  source: string;
}
type Then = 'bounced' | 'soft' | 'complained' | 'unsubscribed' | 'nothing';

const lines = (...all: string[]) => all.join('\r\n');
const headOf = (source: string) => source.slice(0, source.indexOf('\r\n\r\n') + 2);
const boundary = 'b=_1';
const multipart = (type: string, head: string[], parts: [head: string[], body: string][]) =>
  lines(
    ...head,
    'MIME-Version: 1.0',
    `Content-Type: multipart/report; report-type=${type}; boundary="${boundary}"`,
    '',
    ...parts.flatMap(([h, body]) => [`--${boundary}`, ...h, '', body]),
    `--${boundary}--`,
    '',
  );
const daemon = (o: Ours, subject = 'Undelivered Mail Returned to Sender') => [
  'From: MAILER-DAEMON@mx.example',
  `To: <${o.path}>`,
  `Subject: ${subject}`,
];
const text: string[] = ['Content-Type: text/plain; charset=utf-8'];
const blocks = (...recipients: string[][]) =>
  lines('Reporting-MTA: dns; mx.example', '', ...recipients.flatMap((r) => [...r, '']));
const failed = (to: string, status = '5.1.1', reply = `smtp; 550 5.1.1 <${to}>: no such user`) => [
  `Final-Recipient: rfc822; ${to}`,
  'Action: failed',
  `Status: ${status}`,
  `Diagnostic-Code: ${reply}`,
];
const report = (o: Ours, status: string, type = 'message/delivery-status', more: string[] = []) =>
  multipart('delivery-status', daemon(o), [
    [text, 'It could not be delivered.'],
    [[`Content-Type: ${type}`, ...more], status],
    [['Content-Type: message/rfc822'], o.source],
  ]);
const complaint = (o: Ours, type: string, original: [head: string[], body: string] | null, from = o.path) =>
  multipart(
    'feedback-report',
    ['From: <fbl@provider.example>', 'To: <feedback@back.foldwell.example>', 'Subject: FW: One'],
    [
      [text, 'One of our readers has complained.'],
      [
        ['Content-Type: message/feedback-report'],
        lines(
          `Feedback-Type: ${type}`,
          'User-Agent: Loop/2.1',
          'Version: 1',
          ...(from ? [`Original-Mail-From: <${from}>`] : []),
        ),
      ],
      ...(original ? [original] : []),
    ],
  );
const plain = (o: Ours, subject: string, ...body: string[]) => lines(...daemon(o, subject), '', ...body, '');
const quoted = (source: string) => source.split('\r\n').map((l) => `> ${l}`);

const samples: [style: string, make: (o: Ours) => string, then: Then, door?: 'feedback'][] = [
  ['a report as the standard writes it', (o) => report(o, blocks(failed(o.to))), 'bounced'],
  [
    'with small and large letters mixed',
    (o) => report(o, blocks([`FINAL-RECIPIENT: RFC822;${o.to.toUpperCase()}`, 'ACTION: Failed', 'STATUS: 5.1.1'])),
    'bounced',
  ],
  [
    'of an address beyond ASCII (RFC 6533)',
    (o) =>
      report(
        o,
        blocks([`Final-Recipient: utf-8; ${o.to}`, 'Action: failed', 'Status: 5.1.1']),
        'message/global-delivery-status',
      ),
    'bounced',
  ],
  [
    'in base64',
    (o) =>
      report(o, Buffer.from(blocks(failed(o.to))).toString('base64'), 'message/delivery-status', [
        'Content-Transfer-Encoding: base64',
      ]),
    'bounced',
  ],
  [
    'with a comment behind the status',
    (o) =>
      report(
        o,
        blocks([
          `Final-Recipient: rfc822; ${o.to}`,
          'Action: failed',
          'Status: 5.1.1 (bad destination mailbox address)',
        ]),
      ),
    'bounced',
  ],
  [
    'with folded lines',
    (o) => report(o, blocks([`Final-Recipient: rfc822;`, ` ${o.to}`, 'Action: failed', 'Status:', ' 5.1.1'])),
    'bounced',
  ],
  [
    'without a diagnosis',
    (o) => report(o, blocks([`Final-Recipient: rfc822; ${o.to}`, 'Action: failed', 'Status: 5.1.10'])),
    'bounced',
  ],
  [
    'whose code stands in the reply alone',
    (o) => report(o, blocks(failed(o.to, '5.0.0', 'smtp; 550 5.1.1 unknown'))),
    'bounced',
  ],
  ['a full mailbox', (o) => report(o, blocks(failed(o.to, '4.2.2', 'smtp; 452 4.2.2 over quota'))), 'soft'],
  [
    'a mailbox that is full for good, as some say',
    (o) => report(o, blocks(failed(o.to, '5.2.2', 'smtp; 552 5.2.2 full'))),
    'soft',
  ],
  ['taken for spam', (o) => report(o, blocks(failed(o.to, '5.7.1', 'smtp; 550 5.7.1 policy'))), 'soft'],
  ['given up after days', (o) => report(o, blocks(failed(o.to, '4.4.7', 'smtp; 451 4.4.7 expired'))), 'soft'],
  [
    'only late',
    (o) => report(o, blocks([`Final-Recipient: rfc822; ${o.to}`, 'Action: delayed', 'Status: 4.4.1'])),
    'nothing',
  ],
  [
    'delivered',
    (o) => report(o, blocks([`Final-Recipient: rfc822; ${o.to}`, 'Action: delivered', 'Status: 2.0.0'])),
    'nothing',
  ],
  [
    'two recipients, ours the second, full',
    (o) => report(o, blocks(failed('other@x.example'), failed(o.to, '4.2.2', 'smtp; 452 4.2.2 full'))),
    'soft',
  ],
  [
    'two recipients, ours the second, gone',
    (o) => report(o, blocks(failed('other@x.example', '4.2.2', 'smtp; 452 4.2.2 full'), failed(o.to))),
    'bounced',
  ],
  [
    'two recipients, ours was reached',
    (o) =>
      report(
        o,
        blocks(failed('other@x.example'), [`Final-Recipient: rfc822; ${o.to}`, 'Action: delivered', 'Status: 2.0.0']),
      ),
    'nothing',
  ],
  [
    'forwarded: the original recipient is ours',
    (o) => report(o, blocks([`Original-Recipient: rfc822;${o.to}`, ...failed('behind@forward.example')])),
    'bounced',
  ],
  ['without a recipient', (o) => report(o, blocks(['Action: failed', 'Status: 5.1.1'])), 'bounced'],
  [
    'blocks in the text of a plain mail',
    (o) => plain(o, 'Delivery failed', 'Reporting-MTA: dns; mx.example', '', ...failed(o.to)),
    'bounced',
  ],
  [
    'a plain notice with the reply',
    (o) =>
      plain(
        o,
        'Mail delivery failed: returning message to sender',
        'A message that you sent could not be delivered:',
        '',
        `  ${o.to}`,
        '    host mx.example: 550 5.1.1 User unknown',
        '',
        ...quoted(headOf(o.source)),
      ),
    'bounced',
  ],
  [
    'with X-Failed-Recipients',
    (o) =>
      lines(
        `X-Failed-Recipients: ${o.to}`,
        'From: Mail System <noreply@mx.example>',
        'Subject: Warning',
        '',
        `550 No such person: ${o.to}`,
        '',
      ),
    'bounced',
  ],
  [
    'a reply with a hash',
    (o) =>
      plain(
        o,
        'failure notice',
        `<${o.to}>:`,
        '192.0.2.7 does not like recipient.',
        'Remote host said: 550-#5.1.1 The account does not exist',
        '',
      ),
    'bounced',
  ],
  [
    'a code in brackets alone',
    (o) => plain(o, 'failure notice', `<${o.to}>:`, 'Sorry, no mailbox here by that name. (#5.1.1)'),
    'bounced',
  ],
  [
    'words alone',
    (o) =>
      plain(o, 'Undeliverable: One', `${o.to}`, 'The mailbox you tried to reach could not be found: user unknown.'),
    'bounced',
  ],
  ['words of a full mailbox', (o) => plain(o, 'Undeliverable: One', `${o.to}: 452 4.2.2 The mailbox is full.`), 'soft'],
  ['in German', (o) => plain(o, 'Unzustellbar: One', `${o.to}`, '550 5.1.1 Empfänger unbekannt'), 'bounced'],
  [
    'a holiday',
    (o) =>
      lines(
        `From: ${o.to}`,
        'Auto-Submitted: auto-replied',
        'Subject: Away until 550',
        '',
        'I am back on Monday. 550 5.1.1 is my office.',
        '',
      ),
    'nothing',
  ],
  [
    'a person',
    (o) => lines(`From: ${o.to}`, 'Subject: Re: One', '', 'Thank you! My old address said user unknown.', ''),
    'nothing',
  ],
  [
    'a complaint as the standard writes it',
    (o) => complaint(o, 'abuse', [['Content-Type: message/rfc822', 'Content-Disposition: inline'], o.source]),
    'complained',
    'feedback',
  ],
  [
    'with the original attached',
    (o) => complaint(o, 'abuse', [['Content-Type: message/rfc822', 'Content-Disposition: attachment'], o.source], ''),
    'complained',
    'feedback',
  ],
  [
    'with the original inline, and nothing else that names it',
    (o) => complaint(o, 'abuse', [['Content-Type: message/rfc822', 'Content-Disposition: inline'], o.source], ''),
    'complained',
    'feedback',
  ],
  [
    'with its head only',
    (o) => complaint(o, 'fraud', [['Content-Type: text/rfc822-headers'], headOf(o.source)], ''),
    'complained',
    'feedback',
  ],
  [
    'of an original beyond ASCII',
    (o) => complaint(o, 'abuse', [['Content-Type: message/global'], o.source], ''),
    'complained',
    'feedback',
  ],
  [
    'with the original in base64',
    (o) =>
      complaint(
        o,
        'abuse',
        [
          ['Content-Type: message/rfc822', 'Content-Transfer-Encoding: base64', 'Content-Disposition: attachment'],
          Buffer.from(o.source, 'latin1')
            .toString('base64')
            .replace(/(.{76})/g, '$1\r\n'),
        ],
        '',
      ),
    'complained',
    'feedback',
  ],
  [
    'with the Message-ID alone, as providers do that keep their readers’ names to themselves',
    (o) =>
      complaint(
        { ...o, path: 'redacted@foldwell.example' },
        'abuse',
        [['Content-Type: text/rfc822-headers'], /^Message-ID: .*$/m.exec(o.source)?.[0] ?? ''],
        '',
      ),
    'complained',
    'feedback',
  ],
  ['with the return path alone', (o) => complaint(o, 'other', null), 'complained', 'feedback'],
  ['to the return path itself', (o) => complaint(o, 'abuse', null, ''), 'complained'],
  ['an opt-out', (o) => complaint(o, 'opt-out', null), 'unsubscribed', 'feedback'],
  ['that it is no spam', (o) => complaint(o, 'not-spam', null), 'nothing', 'feedback'],
  ['a report of a virus', (o) => complaint(o, 'virus', null), 'nothing', 'feedback'],
  [
    'a complaint in a plain mail',
    (o) =>
      lines(
        'From: <fbl@provider.example>',
        'Subject: Complaint',
        '',
        'Feedback-Type: abuse',
        `Original-Mail-From: <${o.path}>`,
        '',
      ),
    'complained',
    'feedback',
  ],
];

const world = useWorld();
let inbox: Inbox;
const ours: Ours[] = [];
const errors: unknown[] = [];
beforeAll(async () => {
  world.sending.returnDomain = 'back.foldwell.example';
  const reader = new ReportReader(new URL(`file://${path.resolve(import.meta.dirname, '../dist/report-worker.js')}`));
  const { secret } = world.sending;
  inbox = await openInbox({ db: world.connection.db, secret, reader, onError: (e) => errors.push(e) }, '127.0.0.1', 0);
  await world.live({ name: 'Letters', steps: [emailStep('One')] });
  for (let i = 0; i < samples.length; i++) await world.join(`style${i}@returned.example`);
  await world.ahead((await world.now()) + 60_000);
  const sent = await rows<{ id: string; email: string }>(
    world.connection.db,
    sql`select s.id, p.email from sends s join people p on p.id = s.person_id where s.status = 'sent'`,
  );
  for (let i = 0; i < samples.length; i++) {
    const to = `style${i}@returned.example`;
    const send = sent.find((s) => s.email === to);
    const message = world.mailbox.store.summaries.find((m) => m.to === to);
    if (!send || !message) throw new Error(`${to} got nothing.`);
    ours.push({
      to,
      path: returnPath(secret, { workspaceId: world.ws, sendId: send.id }, 'back.foldwell.example'),
      source: world.mailbox.store.source(message).toString('latin1'),
    });
  }
});
afterAll(() => inbox.close());

test.each(samples.map(([style, make, then, door], i) => ({ style, make, then, door, i })))(
  '$style: $then',
  async ({ make, then, door, i }) => {
    const one = ours[i] as Ours;
    await sendBack(inbox.port, door ? 'feedback@back.foldwell.example' : one.path, make(one));
    const [person] = await rows<{ status: string; soft: number }>(
      world.connection.db,
      sql`select mail_status as status, soft_bounces as soft from people where email = ${one.to}`,
    );
    const came: Then = person?.soft ? 'soft' : person?.status === 'ok' ? 'nothing' : (person?.status as Then);
    expect(came).toBe(then);
    expect(errors).toEqual([]);
    // Nobody else is touched by it.
    const after = ours.slice(i + 1).map((o) => o.to);
    const touched = await rows(
      world.connection.db,
      sql`select 1 from people where email = any (${sql.param(after)}::text[]) and (mail_status <> 'ok' or soft_bounces > 0)`,
    );
    expect(touched).toEqual([]);
  },
);
