import { simpleParser, type Attachment } from 'mailparser';
import { faultOf } from './refusal.ts';

// What comes back by mail: reports of delivery (RFC 3464, with the codes of RFC 3463) and of complaints (RFC 5965).

interface About {
  /** Addresses that may name the email it is about: where it came back to, and those in the original's head. */
  named: string[];
}

export type Report = About &
  (
    | { kind: 'bounce'; hard: boolean; status: string; words: string }
    /** A complaint; a report of another kind (an opt-out, a virus) is none. */
    | { kind: 'complaint'; type: string }
  );

// Whoever knows a return path can send anything to it: what is read is cut before any pattern looks at it. The head of an
// original has a few kB, a field of it a few hundred letters.
const MOST_OF_A_BLOCK = 64_000;
const MOST_OF_A_FIELD = 2_000;
const MOST_FIELDS = 500;
/** Recipients that one report tells of, at most. */
const MOST_BLOCKS = 100;

/** Fields of a block as RFC 822 writes them, unfolded, by their names in small letters; the first of each. */
function fieldsOf(block: string): Map<string, string> {
  const found = new Map<string, string>();
  const lines: string[] = [];
  for (const line of block.slice(0, MOST_OF_A_BLOCK).split('\n')) {
    const plain = line.trimEnd();
    const last = lines.length - 1;
    // A line that begins with white space goes on with the one before (RFC 5322, 2.2.3).
    if (/^[ \t]/.test(plain) && last >= 0) {
      if ((lines[last] as string).length < MOST_OF_A_FIELD) lines[last] += ` ${plain.trimStart()}`;
    } else if (lines.length < MOST_FIELDS) lines.push(plain);
  }
  for (const line of lines) {
    const at = line.indexOf(':');
    const name = line.slice(0, at).toLowerCase();
    if (at < 1 || /[^!-9;-~]/.test(name) || found.has(name)) continue;
    found.set(name, line.slice(at + 1, at + 1 + MOST_OF_A_FIELD).trim());
  }
  return found;
}

const blocksOf = (text: string) =>
  text
    .slice(0, MOST_OF_A_BLOCK)
    .split(/\n[ \t]{0,20}\r?\n/)
    .filter((b) => b.trim() !== '')
    .slice(0, MOST_BLOCKS)
    .map(fieldsOf);

/** A value without its comment, or its type before the semicolon: "rfc822; marta@x.example". */
function bare(value: string | undefined): string {
  const typed = (value ?? '')
    .trim()
    .replace(/^[\w-]{1,40}\s{0,5};/, '')
    .trim();
  if (!typed.endsWith(')')) return typed;
  const comment = typed.lastIndexOf('(');
  return comment < 0 ? typed : typed.slice(0, comment).trim();
}

const partOf = (parts: readonly Attachment[], ...types: string[]): string | null => {
  const part = parts.find((p) => types.includes(p.contentType.toLowerCase()));
  return part ? part.content.toString('latin1') : null;
};

/** What in the head of the original names the email: where it was to come back to, and its way out. */
function namedIn(original: string | null): string[] {
  const text = (original ?? '').slice(0, MOST_OF_A_BLOCK);
  const end = /\n\r?\n/.exec(text)?.index ?? text.length;
  const head = fieldsOf(text.slice(0, end));
  const out = (head.get('list-unsubscribe') ?? '')
    .split(/[<>]/)
    .find((address, i) => i % 2 === 1 && address.includes('/u/'));
  return [head.get('return-path') ?? '', out ?? ''].filter(Boolean);
}

/** Reads a message that came back; null where it is no report: an answer of a person, or of a holiday. */
export async function readReport(source: Buffer): Promise<Report | null> {
  const mail = await simpleParser(source, { keepDeliveryStatus: true, skipHtmlToText: true, skipTextToHtml: true });
  const parts = mail.attachments;
  const original = namedIn(partOf(parts, 'message/rfc822', 'text/rfc822-headers', 'message/rfc822-headers'));
  const feedback = partOf(parts, 'message/feedback-report');
  if (feedback) {
    const fields = fieldsOf(feedback);
    const type = (fields.get('feedback-type') ?? '').toLowerCase();
    if (type !== 'abuse' && type !== 'fraud' && type !== 'other') return null;
    return { kind: 'complaint', type, named: [bare(fields.get('original-mail-from')), ...original].filter(Boolean) };
  }
  const status = partOf(parts, 'message/delivery-status');
  if (!status) return null;
  const recipients = blocksOf(status).filter((b) => b.has('action'));
  const failed = recipients.find((b) => b.get('action')?.toLowerCase().startsWith('failed'));
  if (!failed) return null;
  const code = /\b[245]\.\d{1,3}\.\d{1,3}\b/.exec(failed.get('status') ?? '')?.[0] ?? '5.0.0';
  const reply = bare(failed.get('diagnostic-code'));
  const plain = Number(/^(\d{3})\b/.exec(reply)?.[1] ?? (code.startsWith('4') ? 450 : 500));
  // 5.0.0 says nothing but "no": the reply of the server, where it stands there, says more.
  const enhanced = code === '5.0.0' ? (/\b5\.\d{1,3}\.\d{1,3}\b/.exec(reply)?.[0] ?? null) : code;
  const hard = faultOf({ stage: 'rcpt', code: code.startsWith('4') ? 450 : plain, enhanced }) === 'mailbox';
  return { kind: 'bounce', hard, status: enhanced ?? code, words: reply.slice(0, 300), named: original };
}
