import { contentOf, type Email } from '../email/index.ts';

/** Words that somebody wrote, with their place. */
export interface Said {
  text: string;
  block: string | null;
  place: string;
}

/** No words of a reader's: addresses, and a source, whose words are read out of it. */
const NO_WORDS: ReadonlySet<string> = new Set(['picture address', 'source']);

/** All that a reader reads of an email, with its places; merge fields stand as they are written. */
export function saidIn(email: Email): Said[] {
  const { templates, texts } = contentOf(email);
  return [
    ...templates.filter((t) => !NO_WORDS.has(t.place)).map(({ source, ...t }) => ({ ...t, text: source })),
    ...texts,
  ];
}
