import { readAddress, type MailStatus } from '../audience/index.ts';
import { unharmed } from './values.ts';

/** Why an address gets no more mail. */
export type Ended = Exclude<MailStatus, 'ok'>;

/** An address of a list of those not to be mailed, or what is wrong with its line (counted from 1). */
export type SuppressionLine = { email: string; why: Ended } | { line: number; fault: string };

/** Words by which other tools' files tell why, in lower case: whichever is found first in the cells behind the address. */
const TELLING: readonly [RegExp, Ended][] = [
  [/complain|spam|abuse|junk/, 'complained'],
  [/bounce|invalid|undeliver|not found|unknown user/, 'bounced'],
  [/unsub|opt.?out|left|removed/, 'unsubscribed'],
];

const toldBy = (words: string) => TELLING.find(([telling]) => telling.test(words))?.[1];

/** What the cell of a mail status can say, and by which words other programs say that somebody gets mail. */
export const STATUSES = ['ok', 'unsubscribed', 'bounced', 'complained'] as const satisfies readonly MailStatus[];
const MAILABLE = new Set(['ok', 'yes', 'active', 'subscribed', 'confirmed', 'mailable']);

/** Reads whether somebody gets mail; null where the words say neither. */
export function readStatus(text: string): MailStatus | null {
  const words = text.trim().toLowerCase();
  return MAILABLE.has(words) ? 'ok' : (toldBy(words) ?? null);
}

const unquoted = (cell: string) =>
  cell
    .trim()
    .replace(/^(["'])(.*)\1$/, '$2')
    .trim();

/**
 * Reads addresses that are not to be mailed, one on each line, as they are typed, pasted or exported elsewhere: the first
 * cell that is an address counts, the other cells may tell why, else it is `otherwise`. A first line without an address is a
 * heading, empty lines are none. Addresses come in lower case, each once.
 */
export function readSuppressions(text: string, otherwise: Ended): SuppressionLine[] {
  const seen = new Set<string>();
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/);
  return lines.flatMap((written, i): SuppressionLine[] => {
    const cells = written.split(/[,;\t]/).map((c) => unharmed(unquoted(c)).toLowerCase());
    const read = cells.map(readAddress);
    const at = read.findIndex((r) => 'email' in r);
    const found = read[at];
    if (found === undefined || 'why' in found) {
      const words = written.trim();
      if (words === '' || (i === 0 && !words.includes('@'))) return [];
      return [{ line: i + 1, fault: `There is no email address in “${words.slice(0, 80)}”.` }];
    }
    if (seen.has(found.email)) return [];
    seen.add(found.email);
    const told = cells.filter((_, c) => c !== at).join(' ');
    return [{ email: found.email, why: toldBy(told) ?? otherwise }];
  });
}
