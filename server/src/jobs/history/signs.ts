import { readSend, readText, signSend, signText, type Door } from '../../mail/token.ts';

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

// In braces, and with a word that no text of ours has in them. What names a send stands behind the letter of its door.
const TOKEN = /\/([ocut])\/([\w-]{56,58})(?![\w-])|(?<![\w-])([\w-]{8,4000}\.[\w-]{14})(?![\w-])/g;
const TOLD = /(?:\/([ocut])\/)?\{ascenso (\w+)(?: ([\w-]+))?\}/g;

/** A text in which nothing belongs to one installation any more. */
export function withoutSigns(text: string, { secret, words }: Signs): string {
  let out = text;
  for (const [name, word] of Object.entries(words)) out = out.replaceAll(word, `{ascenso ${name}}`);
  return out.replace(
    TOKEN,
    (whole: string, door: Door | undefined, send: string | undefined, text: string | undefined) => {
      if (!door || send === undefined) {
        const read = readText(secret, text ?? '') !== null;
        return read ? `{ascenso text ${text?.split('.')[0]}}` : whole;
      }
      if (!readSend(secret, send, door)) return whole;
      return `/${door}/{ascenso send ${Buffer.from(send, 'base64url').subarray(0, 32).toString('base64url')}}`;
    },
  );
}

const uuidAt = (body: Buffer, from: number): string =>
  body
    .subarray(from, from + 16)
    .toString('hex')
    .replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');

/** The same text as an installation would have written it. */
export function withSigns(text: string, { secret, words }: Signs): string {
  if (!text.includes('{ascenso ')) return text;
  return text.replace(TOLD, (whole: string, door: Door | undefined, kind: string, told: string | undefined) => {
    const body = Buffer.from(told ?? '', 'base64url');
    const before = door ? `/${door}/` : '';
    if (kind === 'text') return before + signText(secret, body.toString());
    if (kind === 'send' && door)
      return before + signSend(secret, { workspaceId: uuidAt(body, 0), sendId: uuidAt(body, 16) }, door);
    const word = words[kind as keyof Signs['words']];
    return word === undefined ? whole : before + word;
  });
}
