import { languageName } from '../words/index.ts';
import { emailCheck, type EmailFinding, type Misspelling } from './check.ts';
import { rewrite } from './rewrite.ts';
import { saidIn } from './said.ts';

// Words only: no merge fields, addresses, codes with figures, names in capitals, or what has an apostrophe inside left bare.
const SKIP = /\{\{[^{}\n]*\}\}|https?:\/\/\S+|\S{1,64}@\S+|\S{1,64}\.\p{L}{2,}\S*|\S{0,64}\d\S*/gu;
const WORD = /\p{L}[\p{L}’']*\p{L}/gu;

/** Words of a text that a dictionary can be asked about. */
export const wordsOf = (text: string): string[] =>
  (text.replace(SKIP, ' ').match(WORD) ?? []).map((w) => w.replaceAll('’', "'")).filter((w) => w !== w.toUpperCase());

/** What is said of a word that is not spelt as its email's language does. */
function said(word: string, { better, of }: Misspelling): Pick<EmailFinding, 'message' | 'fix'> {
  const message = `“${word}” is not in the dictionary.`;
  const perhaps = `Perhaps ${better
    .slice(0, 3)
    .map((b) => `“${b}”`)
    .join(', ')}?`;
  if (of) {
    const also = `It is a word in ${languageName(of)}: leave it where it is meant.`;
    return { message, fix: better.length > 0 ? `${perhaps} ${also}` : also };
  }
  return { message, fix: better.length > 0 ? perhaps : 'Look at it again, or add it to your own words.' };
}

/** Words that the dictionary of the email's language does not know. One of another language is not turned into one of this. */
export const misspelt = emailCheck('misspelt', 'warning', ({ id, email }, { spell, style }) => {
  if (!spell) return [];
  const language = email.language ?? style.language;
  const told = new Set<string>();
  return saidIn(email).flatMap(({ text, block, place }) =>
    wordsOf(text).flatMap((word) => {
      const found = told.has(word) ? null : spell(word, language);
      if (!found) return [];
      told.add(word);
      const [first] = found.better;
      // Until it is known that no other language has it, it may be right as it stands.
      const command =
        first && found.of === null ? rewrite({ step: id, email }, { block, place, text }, word, first) : null;
      return [
        {
          block,
          part: place,
          word,
          ...said(word, found),
          ...(command && first ? { repair: { label: `Write “${first}”`, commands: [command] } } : {}),
        },
      ];
    }),
  );
});
