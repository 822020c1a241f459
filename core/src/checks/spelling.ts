import { contentOf } from '../email/index.ts';
import { emailCheck } from './check.ts';
import { rewrite } from './rewrite.ts';

// Words only: no merge fields, addresses, codes with figures, names in capitals, or what has an apostrophe inside left bare.
const SKIP = /\{\{.*?\}\}|https?:\/\/\S+|\S+@\S+|\S+\.\p{L}{2,}\S*|\S*\d\S*/gu;
const WORD = /\p{L}[\p{L}’']*\p{L}/gu;

/** Words of a text that a dictionary can be asked about. */
export const wordsOf = (text: string): string[] =>
  (text.replace(SKIP, ' ').match(WORD) ?? []).map((w) => w.replaceAll('’', "'")).filter((w) => w !== w.toUpperCase());

export const misspelt = emailCheck('misspelt', 'warning', ({ id, email }, { spell }) => {
  if (!spell) return [];
  const { templates, texts } = contentOf(email);
  const told = new Set<string>();
  const all = [
    ...templates
      .filter((t) => t.place !== 'picture address' && t.place !== 'source')
      .map((t) => ({ ...t, text: t.source })),
    ...texts,
  ];
  return all.flatMap(({ text, block, place }) =>
    wordsOf(text).flatMap((word) => {
      const better = told.has(word) ? null : spell(word);
      if (!better) return [];
      told.add(word);
      const [first] = better;
      const command = first ? rewrite({ step: id, email }, { block, place, text }, word, first) : null;
      return [
        {
          block,
          part: place,
          word,
          message: `“${word}” is not in the dictionary.`,
          fix:
            better.length > 0
              ? `Perhaps ${better
                  .slice(0, 3)
                  .map((b) => `“${b}”`)
                  .join(', ')}?`
              : 'Look at it again, or add it to your own words.',
          ...(command && first ? { repair: { label: `Write “${first}”`, commands: [command] } } : {}),
        },
      ];
    }),
  );
});
