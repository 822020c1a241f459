import { buildHeaderValue, encodeWord, foldLines } from 'nodemailer/lib/mime-funcs';
import type { Addresses, EncodedProgram, Program, Values } from '@ascenso/core';
import { fillEncoded, fillPieces, needsUtf8 } from '@ascenso/core';

/** A file that goes along with a message. */
export interface Attachment {
  name: string;
  mime: string;
  /** Its content in base64, in lines of 76 (RFC 2045, 6.8). */
  base64: string;
}

/** Base64 as a body of RFC 2045, 6.8: lines of 76 characters at most. */
export const base64Body = (content: Buffer): string =>
  (content.toString('base64').match(/.{1,76}/g) ?? []).join('\r\n');

/** The part of a file: its name as RFC 2231 has parameters, so that any letters can stand in it. */
function filePart({ name, mime, base64 }: Attachment): string {
  const disposition = buildHeaderValue({ value: 'attachment', params: { filename: clean(name) } });
  const headers = [`Content-Type: ${mime}`, 'Content-Transfer-Encoding: base64', `Content-Disposition: ${disposition}`];
  return `${headers.map((h) => foldLines(h, 76)).join('\r\n')}\r\n\r\n${base64}\r\n`;
}

export interface Letter {
  sendId: string;
  program: Program;
  encoded: EncodedProgram;
  values: Values;
  addresses: Addresses;
  from: { name: string; email: string };
  to: { name: string; email: string };
  /** Date header, epoch ms. */
  date: number;
  /** Files that go along, in their order. */
  attachments?: readonly Attachment[];
  /** Domain and name of the list it goes under; null for service mail and tests. */
  list: { id: string; name: string } | null;
}

const DAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
const two = (n: number) => String(n).padStart(2, '0');

/** date-time of RFC 5322, 3.3, in UTC. */
export function headerDate(instant: number): string {
  const d = new Date(instant);
  return `${DAYS[d.getUTCDay()]}, ${d.getUTCDate()} ${MONTHS[d.getUTCMonth()]} ${d.getUTCFullYear()} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())} +0000`;
}

// Control characters end a header or an address; nothing a person types into a name may.
const clean = (text: string) => text.replace(/[\u0000-\u001f\u007f]+/g, ' ').trim();

/** Longer than a folded line holds: such a word has to be encoded, or its line could pass the 998 of RFC 5322, 2.1.1. */
const LONG_WORD = /\S{61,}/;
/** Text as its octets in UTF-8, one a character: an address may have letters beyond ASCII (RFC 6532, 3.2). */
const octets = (text: string) => (needsUtf8(text) ? Buffer.from(text, 'utf8').toString('latin1') : text);

const isPlain = (text: string) => !/[^\x20-\x7e]/.test(text) && !LONG_WORD.test(text) && !text.includes('=?');

/** RFC 2047 encoded words where a text is not plain ASCII, or could not be folded. */
function words(text: string): string {
  return isPlain(text) ? text : encodeWord(text, 'B', 60);
}

/** name-addr of RFC 5322, 3.4: an atom phrase as it is, anything else quoted, anything beyond ASCII encoded. */
export function nameAddress(name: string, email: string): string {
  const plain = clean(name);
  if (plain === '') return `<${email}>`;
  if (!isPlain(plain)) return `${words(plain)} <${email}>`;
  const phrase = /^[A-Za-z0-9!#$%&'*+\-/=?^_`{|}~ ]+$/.test(plain) ? plain : `"${plain.replace(/(["\\])/g, '\\$1')}"`;
  return `${phrase} <${email}>`;
}

/** The Message-ID of a send: the same at every try, so that a second delivery can be known as the first. */
export function messageId(sendId: string, from: string): string {
  return `<${sendId}@${from.split('@')[1]}>`;
}

/** Headers of what is in an entity, and its body (RFC 2045, 2.4). */
interface Entity {
  headers: string[];
  body: string;
}

const entity = ({ headers, body }: Entity): string => `${headers.join('\r\n')}\r\n\r\n${body}`;

/** Several entities as one (RFC 2046, 5.1.1). */
const multipart = (kind: 'alternative' | 'mixed', boundary: string, parts: readonly string[]): Entity => ({
  headers: [`Content-Type: multipart/${kind}; boundary="${boundary}"`],
  body: `${parts.map((p) => `--${boundary}\r\n${p}`).join('')}--${boundary}--\r\n`,
});

/**
 * The message of a send as RFC 5322 text in ASCII (but for an address beyond it, RFC 6532): multipart/alternative (RFC 2046) of quoted-printable text and HTML, or
 * the text alone; with files that go along, that and they in a multipart/mixed.
 * Depends on nothing but its argument, so that every try is byte-identical.
 */
export function buildMessage(letter: Letter): string {
  const { values, addresses, from, to, sendId } = letter;
  const { program, encoded } = letter;
  const subject = fillPieces(program.subject, program, values, addresses);
  const toName = program.toName ? fillPieces(program.toName, program, values, addresses) : to.name;
  const id = sendId.replaceAll('-', '');
  const headers = [
    `From: ${nameAddress(from.name, from.email)}`,
    `To: ${nameAddress(toName, to.email)}`,
    ...(program.replyTo ? [`Reply-To: <${clean(program.replyTo)}>`] : []),
    `Subject: ${words(clean(subject.replace(/\s+/g, ' ')))}`,
    `Date: ${headerDate(letter.date)}`,
    `Message-ID: ${messageId(sendId, from.email)}`,
    'MIME-Version: 1.0',
  ];
  if (letter.list) {
    headers.push(
      `List-Id: ${nameAddress(letter.list.name, letter.list.id)}`,
      // RFC 2369 and, for the second, RFC 8058: one POST, no page.
      `List-Unsubscribe: <${addresses.unsubscribe}>`,
      'List-Unsubscribe-Post: List-Unsubscribe=One-Click',
    );
  }
  const quoted = (type: string) => [
    `Content-Type: ${type}; charset=utf-8`,
    'Content-Transfer-Encoding: quoted-printable',
  ];
  const text = fillEncoded(encoded.text, program, values, addresses);
  const said =
    program.html.length === 0
      ? { headers: quoted('text/plain'), body: `${text}\r\n` }
      : multipart('alternative', `=_${id}`, [
          entity({ headers: quoted('text/plain'), body: `${text}\r\n` }),
          entity({
            headers: quoted('text/html'),
            body: `${fillEncoded(encoded.html, program, values, addresses)}\r\n`,
          }),
        ]);
  const { attachments = [] } = letter;
  const whole =
    attachments.length === 0 ? said : multipart('mixed', `=_m${id}`, [entity(said), ...attachments.map(filePart)]);
  const head = octets([...headers, ...whole.headers].map((h) => foldLines(h, 76)).join('\r\n'));
  return `${head}\r\n\r\n${whole.body}`;
}
