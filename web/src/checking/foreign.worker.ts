import { expose } from 'comlink';
import type { Written } from '@ascenso/core';
import { allDictionaries, openDictionary } from './dictionaries.ts';

const known = new Map<string, Written | null>();

const api = {
  /**
   * The language that each word is one of, null for none of ours. They are asked one after the other, and each is given
   * back at once: all of them together would hold hundreds of MB.
   */
  async languagesOf(words: readonly string[]): Promise<Record<string, Written | null>> {
    let open = words.filter((w) => !known.has(w));
    for (const name of allDictionaries) {
      if (open.length === 0) break;
      const dictionary = await openDictionary(name);
      for (const word of open) if (dictionary.testSpelling(word)) known.set(word, name);
      dictionary.dispose();
      open = open.filter((w) => !known.has(w));
    }
    for (const word of open) known.set(word, null);
    return Object.fromEntries(words.map((w) => [w, known.get(w) ?? null]));
  },
};
export type ForeignApi = typeof api;
expose(api);
