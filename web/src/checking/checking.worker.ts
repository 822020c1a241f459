import { expose } from 'comlink';
import { checkContext, compiledWith, type Surroundings } from '@ascenso/contracts';
import {
  compileEmail,
  emailSteps,
  runChecks,
  wordsOf,
  type Finding,
  type Misspelling,
  type Sequence,
  type Written,
} from '@ascenso/core';
import { dictionariesOf, openDictionary } from './dictionaries.ts';

type Opened = Awaited<ReturnType<typeof openDictionary>>;
/** Dictionaries that are open, of the languages of the last draft, by name. */
const open = new Map<string, Promise<Opened>>();
/** What they said of a word, by language and word. */
const spelt = new Map<string, string[] | null>();

/** Opens the dictionaries of these languages, and closes what nobody needs any more. */
async function speller(languages: ReadonlySet<Written>): Promise<(word: string, language: Written) => string[] | null> {
  const names = new Set([...languages].flatMap(dictionariesOf));
  for (const [name, opened] of open)
    if (!names.has(name as ReturnType<typeof dictionariesOf>[number])) {
      open.delete(name);
      (await opened).dispose();
    }
  const ready = new Map<string, Opened>();
  for (const name of names) {
    const opened = open.get(name) ?? openDictionary(name);
    open.set(name, opened);
    // One that could not be fetched is tried again with the next draft.
    const dictionary = await opened.catch(() => void open.delete(name));
    if (dictionary) ready.set(name, dictionary);
  }
  return (word, language) => {
    const key = `${language} ${word}`;
    const known = spelt.get(key);
    if (known !== undefined) return known;
    const asked = dictionariesOf(language).flatMap((d) => ready.get(d) ?? []);
    // Where no dictionary could be fetched, nothing is known to be wrong.
    if (asked.length === 0) return null;
    const answer = asked.some((d) => d.testSpelling(word))
      ? null
      : [...new Set(asked.flatMap((d) => d.getSpellingSuggestions(word)))].filter((w) => !/[\s-]/.test(w)).slice(0, 3);
    spelt.set(key, answer);
    return answer;
  };
}

/** Bytes of compiled emails by their content: an email that has not changed is not compiled again. */
const weights = new Map<string, number>();
const KEPT = 200;

/** Words of the workspace's own, and the names of what it has: nobody has to tell them. */
const wordsOfTheHouse = (around: Surroundings): string[] => [
  ...around.words,
  ...[
    around.style.brand,
    around.style.postalAddress,
    ...[...around.senders, ...around.lists, ...around.offers, ...around.segments].map((n) => n.name),
    ...around.kinds.map((k) => k.label),
  ].flatMap(wordsOf),
];

const api = {
  /**
   * Every finding about a draft, its spelling included. `foreign` says of which other language words are that the
   * dictionaries do not know: absent while nobody has looked.
   */
  async run(
    self: string,
    sequence: Sequence,
    around: Surroundings,
    tested: Record<string, string>,
    foreign: Readonly<Record<string, Written | null>>,
  ): Promise<Finding[]> {
    const bytes: Record<string, number> = {};
    const uncompiled: Finding[] = [];
    for (const step of emailSteps(sequence)) {
      const key = JSON.stringify([step.email, around.style, around.shared, sequence.list === null]);
      try {
        const known =
          weights.get(key) ?? (await compileEmail(step.email, around.style, compiledWith(sequence, around))).bytes;
        weights.set(key, known);
        bytes[step.id] = known;
      } catch (error) {
        const place = { step: step.id, block: null, part: 'source' };
        uncompiled.push({
          check: 'not-compiled',
          level: 'error',
          place,
          message: (error as Error).message,
          fix: 'Move the field into the text or into the value of an attribute.',
        });
      }
    }
    if (weights.size > KEPT) weights.clear();
    const ask = await speller(new Set(emailSteps(sequence).map((e) => e.email.language ?? around.style.language)));
    const own = new Set(wordsOfTheHouse(around).map((w) => w.toLowerCase()));
    const spell = (word: string, language: Written): Misspelling | null => {
      if (own.has(word.toLowerCase())) return null;
      const better = ask(word, language);
      return better && { better, ...(word in foreign ? { of: foreign[word] ?? null } : {}) };
    };
    return [...uncompiled, ...runChecks(sequence, { ...checkContext(self, sequence, around, bytes, tested), spell })];
  },
};
export type CheckingApi = typeof api;
expose(api);
