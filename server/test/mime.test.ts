import fc from 'fast-check';
import { simpleParser, type AddressObject, type ParsedMail } from 'mailparser';
import { describe, expect, test } from 'vitest';
import {
  blankEmail,
  compileEmail,
  encodeProgram,
  fillProgram,
  paragraphs,
  plainStyle,
  valuesFor,
  type MergeContext,
} from '@ascenso/core';
import { addressesFor } from '../src/engine/message.ts';
import { base64Body, buildMessage, type Letter } from '../src/mail/mime.ts';
import { newId } from '../src/app/ids.ts';

// As long as they are: with its address behind it, one header is longer than a line, and has no place to fold.
const addresses = addressesFor('https://mail.foldwell-bindery.example', () => 'A'.repeat(58));
let ids = 0;

/** A message with a subject and a paragraph that both speak to the reader by name. */
async function letter(subject: string, context: MergeContext, more: Partial<Letter> = {}): Promise<Letter> {
  const step = blankEmail(() => `b${++ids}`, 'Letter');
  step.email.subject = subject;
  for (const b of step.email.blocks) {
    if (b.kind === 'text')
      b.doc = paragraphs([
        'Dear ',
        { path: 'subscriber.first_name', fallback: 'reader', filters: [] },
        ', fold along the grain — always.',
      ]);
    if (b.kind === 'button')
      Object.assign(b, {
        label: 'See the kits',
        address: 'https://foldwell.example/kits?for={{ subscriber.first_name }}',
      });
  }
  const program = await compileEmail(step.email, { ...plainStyle, postalAddress: 'Rua das Gáveas 12, Lisboa' });
  return {
    sendId: newId(),
    program,
    encoded: encodeProgram(program),
    values: valuesFor(program, context),
    addresses,
    from: { name: 'Inês at Foldwell', email: 'ines@foldwell.example' },
    to: { name: '', email: 'marta@readers.example' },
    date: Date.UTC(2026, 2, 6, 12, 0, 5),
    list: { id: 'list-1.foldwell.example', name: 'Workshop letters' },
    ...more,
  };
}
const reader = (first_name: string): MergeContext => ({
  subscriber: { first_name, email: 'marta@readers.example' },
  event: {},
  sender: {},
});

const headOf = (message: string) => message.slice(0, message.indexOf('\r\n\r\n'));
/** Bodies of the parts, still encoded. */
const partsOf = (message: string) =>
  message
    .split(/\r\n?--=_[0-9a-f]+(?:--)?\r\n/)
    .slice(1)
    .filter((p) => p.includes('\r\n\r\n'))
    .map((p) => p.slice(p.indexOf('\r\n\r\n') + 4));

/** What the RFCs ask of every message of ours. */
function obeys(message: string): void {
  // RFC 5322, 2.1: CR and LF only as a pair; 2.1.1: at most 998 characters in a line. RFC 5321, 4.5.2 is the client's.
  expect(message.replace(/\r\n/g, '')).not.toMatch(/[\r\n]/);
  const lines = message.split('\r\n');
  expect(Math.max(...lines.map((l) => l.length))).toBeLessThanOrEqual(998);
  // RFC 5322, 2.2: printable US-ASCII; with quoted-printable everywhere the whole message is.
  expect(message).toMatch(/^[\x09\x0d\x0a\x20-\x7e]*$/);
  const head = headOf(message);
  // RFC 5322, 2.1.1: header lines should be at most 78, where white space lets them be folded (2.2.3); 2.2: a name, a colon,
  // folded lines begin with white space.
  for (const line of head.split('\r\n')) {
    if (/\S[ \t]+\S/.test(line)) expect(line.length).toBeLessThanOrEqual(78);
    expect(line).toMatch(/^(?:[!-9;-~]+:(?: ?\S|$)|[ \t]+\S)/);
  }
  // RFC 5322, 3.6: these once at most.
  const names = head
    .split('\r\n')
    .filter((l) => /^\S/.test(l))
    .map((l) => l.slice(0, l.indexOf(':')).toLowerCase());
  expect(new Set(names).size).toBe(names.length);
  expect(names).toEqual(
    expect.arrayContaining(['from', 'to', 'subject', 'date', 'message-id', 'mime-version', 'content-type']),
  );
  // RFC 2047, 2: an encoded word is at most 75 characters, and stands apart from others by white space.
  for (const word of head.match(/=\?[^?\s]+\?[BQ]\?[^?\s]*\?=/gi) ?? []) expect(word.length).toBeLessThanOrEqual(75);
  expect(head).not.toMatch(/\?==\?/);
  // RFC 2045, 6.7: encoded lines of at most 76, "=" only before two capital hex digits or a line's end, no white space at an end.
  const parts = partsOf(message);
  expect(parts).toHaveLength(2);
  for (const part of parts)
    for (const line of part.split('\r\n')) {
      expect(line.length).toBeLessThanOrEqual(76);
      expect(line).not.toMatch(/[ \t]$/);
      expect(line.replace(/=[0-9A-F]{2}/g, '').replace(/=$/, '')).not.toContain('=');
    }
  // RFC 5322, 3.3 and 3.6.4.
  expect(head).toMatch(
    /^Date: (Mon|Tue|Wed|Thu|Fri|Sat|Sun), \d{1,2} (Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec) \d{4} \d\d:\d\d:\d\d \+0000$/m,
  );
  expect(head).toMatch(/^Message-ID: <[^<>@\s]+@[^<>@\s]+>$/m);
}

const plain = (text: string | undefined) => (text ?? '').replace(/\n$/, '');

describe('a message read back by another program', () => {
  const nasty = fc.oneof(
    fc.string({ maxLength: 60, unit: 'binary' }),
    fc.constantFrom(
      '<img src=x onerror=alert(1)>',
      '{{ subscriber.email }}',
      '{% raw %}',
      'Åsa 😀👩‍👩‍👧 ﷽',
      'a\r\nBcc: all@elsewhere.example',
      '=?utf-8?B?aGk=?=',
      '.',
      '..\r\n.\r\n',
      '"; ) (',
      '\u202egnp.exe',
      '=C3=A9',
      'x'.repeat(300),
      ' '.repeat(90),
      '$& $1 \\0',
    ),
  );

  test('says, byte for byte, what was meant: any name in subject, text, HTML and address', async () => {
    await fc.assert(
      fc.asyncProperty(nasty, nasty, async (name, sender) => {
        const l = await letter('For {{ subscriber.first_name | default: "reader" }}: your guide 📖', reader(name), {
          from: { name: sender, email: 'ines@foldwell.example' },
        });
        const message = buildMessage(l);
        obeys(message);
        const mail: ParsedMail = await simpleParser(Buffer.from(message, 'latin1'), {
          skipTextToHtml: true,
          skipHtmlToText: true,
        });
        const meant = fillProgram(l.program, l.values, addresses);
        expect(plain(mail.text)).toBe(plain(meant.text.replace(/\r\n|\r/g, '\n')));
        expect(plain(String(mail.html))).toBe(plain(meant.html.replace(/\r\n|\r/g, '\n')));
        // Nobody else is written to, nothing was put into the head.
        expect((mail.to as AddressObject).value.map((v) => v.address)).toEqual(['marta@readers.example']);
        expect(mail.from?.value.map((v) => v.address)).toEqual(['ines@foldwell.example']);
        expect([...mail.headers.keys()].sort()).toEqual([
          'content-type',
          'date',
          'from',
          'list',
          'message-id',
          'mime-version',
          'subject',
          'to',
        ]);
        // No tag came out of a name: the reader's text has no element the author did not write.
        if (/onerror/.test(name)) expect(String(mail.html)).not.toMatch(/<img[^>]+onerror/);
      }),
      { numRuns: 150 },
    );
  });

  test('carries subject and names beyond ASCII in encoded words, and gives them back whole (RFC 2047)', async () => {
    const subject =
      'Ångström, 日本語 und ein sehr langer Betreff mit 🧵 Faden, 🪡 Nadel und Papier – bis über die Zeile hinaus';
    const message = buildMessage(await letter(subject, reader('Marta')));
    obeys(message);
    const mail = await simpleParser(Buffer.from(message, 'latin1'));
    expect(mail.subject).toBe(subject);
    expect(mail.from?.value[0]?.name).toBe('Inês at Foldwell');
    expect(mail.date?.getTime()).toBe(Date.UTC(2026, 2, 6, 12, 0, 5));
  });

  test('is multipart/alternative with the plain text first (RFC 2046, 5.1.4), and its text is a real one', async () => {
    const l = await letter('Hello', reader('Marta'));
    const message = buildMessage(l);
    expect(headOf(message)).toMatch(/Content-Type: multipart\/alternative;\s+boundary="=_[0-9a-f]{32}"/);
    expect(message.indexOf('Content-Type: text/plain; charset=utf-8')).toBeLessThan(
      message.indexOf('Content-Type: text/html; charset=utf-8'),
    );
    const mail = await simpleParser(Buffer.from(message, 'latin1'));
    expect(mail.text).toContain('Dear Marta, fold along the grain — always.');
    expect(mail.text).toContain('See the kits');
    expect(mail.text).toContain('Rua das Gáveas 12, Lisboa');
    expect(mail.text).not.toMatch(/<[a-z]/i);
  });

  test('names its list and how to leave it: List-Id (RFC 2919), List-Unsubscribe (RFC 2369), one click (RFC 8058)', async () => {
    const folded = headOf(buildMessage(await letter('Hello', reader('Marta'))));
    const withList = folded.replace(/\r\n(?=[ \t])/g, '');
    expect(withList).toContain('List-Id: Workshop letters <list-1.foldwell.example>');
    expect(withList).toContain(`List-Unsubscribe: <${addresses.unsubscribe}>`);
    expect(withList).toContain('List-Unsubscribe-Post: List-Unsubscribe=One-Click');
    const service = headOf(buildMessage(await letter('Hello', reader('Marta'), { list: null })));
    expect(service).not.toContain('List-');
  });

  test('carries files along in a multipart/mixed (RFC 2046, 5.1.3), whole to the byte and under their names (RFC 2231)', async () => {
    const files = [
      {
        name: 'Guia de encadernação: três papéis, e uma lista bem mais longa do que uma linha.pdf',
        content: Buffer.from(Uint8Array.from({ length: 70_001 }, (_, i) => (i * 7919) % 256)),
      },
      { name: 'a "plain" one.zip', content: Buffer.alloc(1, 255) },
      { name: 'empty.zip', content: Buffer.alloc(0) },
    ];
    const attachments = files.map((f) => ({ name: f.name, mime: 'application/pdf', base64: base64Body(f.content) }));
    const l = await letter('Hello', reader('Marta'), { attachments });
    for (const program of [l.program, { ...l.program, html: [] }]) {
      const message = buildMessage({ ...l, program });
      expect(message.split('\r\n').every((line) => line.length <= 998 && /^[\x09\x20-\x7e]*$/.test(line))).toBe(true);
      const mail = await simpleParser(Buffer.from(message, 'latin1'));
      expect(mail.attachments.map((a) => a.filename)).toEqual(files.map((f) => f.name));
      expect(
        mail.attachments.map((a) =>
          Buffer.compare(a.content, files[mail.attachments.indexOf(a)]?.content ?? Buffer.from('x')),
        ),
      ).toEqual([0, 0, 0]);
      expect(mail.text).toContain('Dear Marta, fold along the grain — always.');
      expect(Boolean(mail.html)).toBe(program.html.length > 0);
    }
  });

  test('is the same to the byte at every try, and another send has another Message-ID', async () => {
    const l = await letter('Hello', reader('Marta'));
    expect(buildMessage(l)).toBe(buildMessage({ ...l }));
    expect(buildMessage({ ...l, sendId: newId() })).not.toBe(buildMessage(l));
  });

  test('puts a value into an address percent-encoded, so that it stays one address (RFC 3986, 2.1)', async () => {
    const l = await letter('Hello', reader('a b&c="<>é'));
    expect(l.values.targets[0]).toBe('https://foldwell.example/kits?for=a%20b%26c%3D%22%3C%3E%C3%A9');
  });
});
