import { encodeWord, foldLines } from 'nodemailer/lib/mime-funcs';
import type { Addresses, EncodedProgram, Program, Values } from '@ascenso/core';
import { fillEncoded, fillPieces } from '@ascenso/core';

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

/**
 * The message of a send as RFC 5322 text in ASCII: multipart/alternative (RFC 2046) of quoted-printable text and HTML, or
 * the text alone.
 * Depends on nothing but its argument, so that every try is byte-identical.
 */
export function buildMessage(letter: Letter): string {
  const { values, addresses, from, to, sendId } = letter;
  const { program, encoded } = letter;
  const subject = fillPieces(program.subject, program, values, addresses);
  const toName = program.toName ? fillPieces(program.toName, program, values, addresses) : to.name;
  const boundary = `=_${sendId.replaceAll('-', '')}`;
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
  const isText = program.html.length === 0;
  headers.push(...(isText ? quoted('text/plain') : [`Content-Type: multipart/alternative; boundary="${boundary}"`]));
  const head = `${headers.map((h) => foldLines(h, 76)).join('\r\n')}\r\n\r\n`;
  const text = fillEncoded(encoded.text, program, values, addresses);
  if (isText) return `${head}${text}\r\n`;
  const part = (type: string, body: string) => `--${boundary}\r\n${quoted(type).join('\r\n')}\r\n\r\n${body}\r\n`;
  const html = fillEncoded(encoded.html, program, values, addresses);
  return `${head}${part('text/plain', text)}${part('text/html', html)}--${boundary}--\r\n`;
}
