import { readSend, readText, signSend, signText } from '../../mail/token.ts';

// A history is kept without secrets: what was signed is told by what it says, and signed anew where it is brought back.

/** What the addresses and signatures of one installation are made with. */
export interface Signs {
  secret: string;
  /**
   * By name, what stands in its texts as it is: its public base address, where its mailbox and its shop are, and the key that
   * the stand-ins use.
   */
  words: Readonly<Record<'base' | 'mailbox' | 'shop' | 'key', string>>;
}

// In braces, and with a word that no text of ours has in them.
const TOKEN = /(?<![\w-])(?:[\w-]{8,4000}\.[\w-]{14}(?![\w-])|[\w-]{56}(?![\w-]))/g;
const TOLD = /\{ascenso (\w+)(?: ([\w-]+))?\}/g;

/** A text in which nothing belongs to one installation any more. */
export function withoutSigns(text: string, { secret, words }: Signs): string {
  let out = text;
  for (const [name, word] of Object.entries(words)) out = out.replaceAll(word, `{ascenso ${name}}`);
  return out.replace(TOKEN, (token) => {
    if (readSend(secret, token))
      return `{ascenso send ${Buffer.from(token, 'base64url').subarray(0, 32).toString('base64url')}}`;
    return readText(secret, token) === null ? token : `{ascenso text ${token.split('.')[0]}}`;
  });
}

const uuidAt = (body: Buffer, from: number): string =>
  body
    .subarray(from, from + 16)
    .toString('hex')
    .replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');

/** The same text as an installation would have written it. */
export function withSigns(text: string, { secret, words }: Signs): string {
  if (!text.includes('{ascenso ')) return text;
  return text.replace(TOLD, (whole: string, kind: string, told: string | undefined) => {
    const body = Buffer.from(told ?? '', 'base64url');
    if (kind === 'text') return signText(secret, body.toString());
    if (kind === 'send') return signSend(secret, { workspaceId: uuidAt(body, 0), sendId: uuidAt(body, 16) });
    return words[kind as keyof Signs['words']] ?? whole;
  });
}
