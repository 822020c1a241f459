import { contentOf, walkBlocks, type RichText } from '../email/index.ts';
import type { Command } from '../sequence/index.ts';
import { emailCheck } from './check.ts';

// Words only: no merge fields, addresses, codes with figures, names in capitals, or what has an apostrophe inside left bare.
const SKIP = /\{\{.*?\}\}|https?:\/\/\S+|\S+@\S+|\S+\.\p{L}{2,}\S*|\S*\d\S*/gu;
const WORD = /\p{L}[\p{L}’']*\p{L}/gu;

/** Words of a text that a dictionary can be asked about. */
export const wordsOf = (text: string): string[] =>
  (text.replace(SKIP, ' ').match(WORD) ?? []).map((w) => w.replaceAll('’', "'")).filter((w) => w !== w.toUpperCase());

const inDoc = (doc: RichText, from: string, to: string): RichText =>
  JSON.parse(
    JSON.stringify(doc, (key, v: unknown) => (key === 'text' && typeof v === 'string' ? v.replace(from, to) : v)),
  ) as RichText;

const FIELD_OF: Readonly<Record<string, string>> = {
  heading: 'text',
  label: 'label',
  'alt text': 'alt',
  title: 'title',
  summary: 'summary',
  reason: 'reason',
  greeting: 'greeting',
};

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
      const found = walkBlocks(email.blocks).find((p) => p.block.id === block)?.block;
      let command: Command | null = null;
      if (first && block === null && (place === 'subject' || place === 'preview'))
        command = { type: 'email.set', step: id, field: place, value: text.replace(word, first) };
      else if (first && found && (found.kind === 'text' || found.kind === 'quote') && place === 'text')
        command = { type: 'block.set', step: id, block: found.id, field: 'doc', value: inDoc(found.doc, word, first) };
      else if (first && found && FIELD_OF[place])
        command = {
          type: 'block.set',
          step: id,
          block: found.id,
          field: FIELD_OF[place] ?? '',
          value: text.replace(word, first),
        };
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
