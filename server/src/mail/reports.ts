import { simpleParser, type Attachment } from 'mailparser';
import { faultOf } from './refusal.ts';

// What comes back by mail: reports of delivery (RFC 3464, with the codes of RFC 3463) and of complaints (RFC 5965).

interface About {
  /** Addresses that may name the email it is about: where it came back to, and those in the original, wherever they stand. */
  named: string[];
}

/** What became of one recipient. */
export interface Outcome {
  /** Their address as the report writes it, in small letters; '' where it names none. */
  to: string;
  hard: boolean;
  status: string;
  words: string;
}

export type Report = About &
  (
    | {
        kind: 'bounce';
        /** Those whom it did not reach; the first of them speaks where none is named. */
        failed: Outcome[];
        /** Those whom it did reach, or is still on the way to. */
        others: string[];
      }
    /** A complaint, or an opt-out told to the provider; a report of another kind (a virus, that it is no spam) is none. */
    | { kind: 'complaint'; type: 'abuse' | 'fraud' | 'other' | 'opt-out' }
    /** No report: somebody wrote back, or a machine said what is not understood. */
    | ({ kind: 'letter' } & Letter)
  );

export interface Letter {
  /** A person, a machine that answers for one (a holiday), or a mail system. */
  by: 'person' | 'answerer' | 'system';
  /** Address it is from, or ''. */
  from: string;
  subject: string;
  /** Its words, cut. */
  text: string;
}

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

/**
 * Return paths of ours, ways out and Message-IDs, wherever they stand in a message: only what is signed, or what only its reader
 * has seen, counts in the end.
 */
const PATH = /b[a-z2-7]{61}@[a-z0-9.-]{1,253}/gi;
const WAY_OUT = /\/u\/[\w-]{40,80}/g;
const MESSAGE_ID = /<[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}@[a-z0-9.-]{1,253}>/gi;
const MOST_OF_A_MESSAGE = 256_000;
const MOST_NAMES = 20;

function namesIn(texts: readonly string[]): string[] {
  const found = texts.flatMap((t) => {
    // A line that quoted-printable has broken goes on in the next (RFC 2045, 6.7).
    const text = t.slice(0, MOST_OF_A_MESSAGE).replace(/=\r?\n/g, '');
    return [PATH, WAY_OUT, MESSAGE_ID].flatMap((of) => [...text.matchAll(of)].map(([name]) => name));
  });
  return [...new Set(found)].slice(0, MOST_NAMES);
}

const COMPLAINTS = ['abuse', 'fraud', 'other', 'opt-out'] as const;
/** A complaint by the field that RFC 5965 asks for, in a part of its own or, as some write it, in the text. */
function complaintIn(feedback: string | null, texts: readonly string[]) {
  const told =
    feedback ??
    texts.map((t) => /(?:^|\n)feedback-type:[^\n]{0,80}/i.exec(t.slice(0, MOST_OF_A_BLOCK))?.[0]).find(Boolean);
  if (!told) return undefined;
  const type = (fieldsOf(told.trimStart()).get('feedback-type') ?? '').toLowerCase();
  return COMPLAINTS.find((c) => c === type) ?? null;
}

/** What a code and a reply say of an address (RFC 3463; the reply of the server, where it stands there, says more than 5.0.0). */
function outcomeOf(to: string, code: string, reply: string): Outcome {
  const plain = Number(/^(\d{3})\b/.exec(reply)?.[1] ?? (code.startsWith('4') ? 450 : 500));
  const enhanced = code === '5.0.0' ? (/\b5\.\d{1,3}\.\d{1,3}\b/.exec(reply)?.[0] ?? null) : code;
  const hard = faultOf({ stage: 'rcpt', code: code.startsWith('4') ? 450 : plain, enhanced }) === 'mailbox';
  return { to, hard, status: enhanced ?? code, words: reply.slice(0, 300) };
}

function recipientOf(block: Map<string, string>): string {
  const named = block.get('original-recipient') ?? block.get('final-recipient');
  return bare(named).replace(/^<|>$/g, '').toLowerCase();
}

/** The outcomes of a report of delivery (RFC 3464; of addresses beyond ASCII, RFC 6533). */
function outcomesIn(status: string): { failed: Outcome[]; others: string[] } {
  const told = blocksOf(status).filter((b) => b.has('action'));
  const failed = told.filter((b) => b.get('action')?.toLowerCase().startsWith('failed'));
  return {
    failed: failed.map((b) => {
      const code = /\b[245]\.\d{1,3}\.\d{1,3}\b/.exec(b.get('status') ?? '')?.[0] ?? '5.0.0';
      return outcomeOf(recipientOf(b), code, bare(b.get('diagnostic-code')));
    }),
    others: told.filter((b) => !failed.includes(b)).map(recipientOf),
  };
}

/** Who writes notices that are no reports, and how they are called (common practice, from memory). */
const DAEMON = /mailer-daemon|postmaster|mail delivery/i;
const RETURNED =
  /undeliver|returned (?:mail|to sender)|delivery (?:status|failure|has failed|failed|report)|failure notice|could not be delivered|unzustellbar|non remis|no entregado/i;
/** A reply of a server in words: "550 5.1.1 …", "550-#5.1.1", "(#5.1.1)". */
const REPLY = /(?:^|[\s:(])([45]\d\d)[ -]{1,3}[#(]{0,2}([245]\.\d{1,3}\.\d{1,3})?[^\n]{0,300}/m;
const BARE_CODE = /[#(]{1,2}([45]\.\d{1,3}\.\d{1,3})\)?[^\n]{0,300}/;
const NOBODY =
  /(?:no such|unknown|invalid) (?:user|recipient|mailbox|address)|user (?:unknown|not found|doesn't exist|does not exist)|(?:mailbox|address|account|recipient)[^.\n]{0,40}(?:not found|does not exist|doesn't exist|unavailable|disabled|rejected)/i;

/** A notice without the form of a report: who it was to, and what the server said, read from its words. */
function noticeIn(head: { from: string; subject: string; failed: string }, text: string): Outcome | null {
  if (!head.failed && !(DAEMON.test(head.from) && RETURNED.test(head.subject))) return null;
  const words = text.slice(0, MOST_OF_A_BLOCK);
  const to = head.failed.split(',')[0]?.trim().toLowerCase() ?? '';
  const reply = REPLY.exec(words);
  if (reply) return outcomeOf(to, reply[2] ?? `${reply[1]?.[0] ?? '5'}.0.0`, reply[0].replace(/^[\s:(]+/, '').trim());
  const code = BARE_CODE.exec(words);
  if (code) return outcomeOf(to, code[1] as string, code[0].trim());
  const said = NOBODY.exec(words);
  return said ? outcomeOf(to, '5.1.1', said[0]) : null;
}

const MOST_OF_A_LETTER = 20_000;

/** Who wrote what is no report (RFC 3834, 5: what a machine sends says so). */
function writtenBy(head: Map<string, string>, from: string): Letter['by'] {
  if (DAEMON.test(from)) return 'system';
  const auto = (head.get('auto-submitted') ?? 'no').toLowerCase();
  const bulk = /bulk|auto_reply|junk/i.test(head.get('precedence') ?? '') || head.has('x-autoreply');
  return auto !== 'no' || bulk ? 'answerer' : 'person';
}

/** Reads a message that came back; null where it is understood and says nothing: that it is late, was delivered, is no spam. */
export async function readReport(source: Buffer): Promise<Report | null> {
  const mail = await simpleParser(source, { keepDeliveryStatus: true, skipHtmlToText: true, skipTextToHtml: true });
  const parts = mail.attachments;
  const raw = source.toString('latin1', 0, MOST_OF_A_MESSAGE);
  const contents = parts.map((p) => p.content.toString('latin1', 0, MOST_OF_A_BLOCK));
  const named = namesIn([raw, mail.text ?? '', ...contents]);
  const feedback = partOf(parts, 'message/feedback-report');
  const type = complaintIn(feedback, [mail.text ?? '', raw]);
  if (type !== undefined) {
    const from = feedback ? bare(fieldsOf(feedback).get('original-mail-from')) : '';
    return type && { kind: 'complaint', type, named: [from, ...named].filter(Boolean) };
  }
  const status = partOf(parts, 'message/delivery-status', 'message/global-delivery-status');
  // Some write the blocks into the text, or under another type.
  const begun = status === null ? /(?:^|\n)(?:reporting-mta|final-recipient):/i.exec(raw) : null;
  const outcomes = outcomesIn(status ?? (begun ? raw.slice(begun.index).trimStart() : ''));
  if (outcomes.failed.length > 0) return { kind: 'bounce', ...outcomes, named };
  if (outcomes.others.length > 0) return null;
  const head = fieldsOf(raw);
  const notice = noticeIn(
    { from: head.get('from') ?? '', subject: mail.subject ?? '', failed: head.get('x-failed-recipients') ?? '' },
    mail.text ?? '',
  );
  if (notice) return { kind: 'bounce', failed: [notice], others: [], named };
  const from = mail.from?.value[0]?.address ?? '';
  const by = writtenBy(head, `${head.get('from') ?? ''} ${from}`);
  const text = (mail.text ?? '').slice(0, MOST_OF_A_LETTER);
  return { kind: 'letter', by, from, subject: (mail.subject ?? '').slice(0, 300), text, named: [] };
}
