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

/** Fields of a block as RFC 822 writes them, unfolded, by their names in small letters; the first of each. */
function fieldsOf(block: string): Map<string, string> {
  const found = new Map<string, string>();
  for (const line of block.replace(/\r?\n[ \t]+/g, ' ').split(/\r?\n/)) {
    const [, name, value] = /^([!-9;-~]+):\s*(.*)$/.exec(line) ?? [];
    if (name && !found.has(name.toLowerCase())) found.set(name.toLowerCase(), (value ?? '').trim());
  }
  return found;
}

const blocksOf = (text: string) =>
  text
    .split(/\r?\n[ \t]*\r?\n/)
    .filter((b) => b.trim() !== '')
    .map(fieldsOf);

/** A value without its comment, or its type before the semicolon: "rfc822; marta@x.example". */
const bare = (value: string | undefined) =>
  (value ?? '')
    .replace(/^[\w-]+\s*;\s*/, '')
    .replace(/\s*\([^)]*\)\s*$/, '')
    .trim();

const partOf = (parts: readonly Attachment[], ...types: string[]): string | null => {
  const part = parts.find((p) => types.includes(p.contentType.toLowerCase()));
  return part ? part.content.toString('latin1') : null;
};

/** What in the head of the original names the email: where it was to come back to, and its way out. */
function namedIn(original: string | null): string[] {
  const head = fieldsOf((original ?? '').split(/\r?\n\r?\n/)[0] ?? '');
  const out = /<([^>]+\/u\/[^>]+)>/.exec(head.get('list-unsubscribe') ?? '')?.[1];
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
