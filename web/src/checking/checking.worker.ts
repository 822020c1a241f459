import { expose } from 'comlink';
import nspell from 'nspell';
import { checkContext, compiledWith, type Surroundings } from '@ascenso/contracts';
import { compileEmail, emailSteps, runChecks, type Finding, type Sequence } from '@ascenso/core';
import { wordsOfTheTrade } from './words.ts';

type Speller = ReturnType<typeof nspell>;
let speller: Promise<Speller> | null = null;
const spelt = new Map<string, string[] | null>();

async function loadSpeller(): Promise<Speller> {
  const [aff, dic] = await Promise.all([
    import('dictionary-en-files/index.aff?raw'),
    import('dictionary-en-files/index.dic?raw'),
  ]);
  const made = nspell(aff.default, dic.default);
  for (const word of wordsOfTheTrade) made.add(word);
  return made;
}

/** Bytes of compiled emails by their content: an email that has not changed is not compiled again. */
const weights = new Map<string, number>();
const KEPT = 200;

const api = {
  /** Every finding about a draft, the spelling of its English emails included. */
  async run(
    self: string,
    sequence: Sequence,
    around: Surroundings,
    tested: Record<string, string>,
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
    speller ??= loadSpeller();
    const dictionary = await speller;
    // Names of the workspace are words of its own without being told.
    const names = [around.style.brand, ...around.senders.map((s) => s.name)].flatMap((n) => n.split(/\s+/));
    const own = new Set([...around.words, ...names].map((w) => w.toLowerCase()));
    const spell = (word: string): string[] | null => {
      if (own.has(word.toLowerCase())) return null;
      const known = spelt.get(word);
      if (known !== undefined) return known;
      const answer = dictionary.correct(word) ? null : dictionary.suggest(word).slice(0, 3);
      spelt.set(word, answer);
      return answer;
    };
    return [...uncompiled, ...runChecks(sequence, { ...checkContext(self, sequence, around, bytes, tested), spell })];
  },
};
export type CheckingApi = typeof api;
expose(api);
