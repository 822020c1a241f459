import type { Written } from '@ascenso/core';
import { createHunspellFromStrings, type Hunspell } from 'hunspell-wasm';
import { wordsOfTheTrade } from './words.ts';

// Hunspell itself, with the dictionaries of the registry: they are fetched when an email is written in their language.

/** A dictionary that there is; plain English is looked up in two. */
type Dictionary = Exclude<Written, 'en'>;

const FILES: Readonly<Record<Dictionary, () => Promise<{ default: string }>[]>> = {
  'en-US': () => [
    import('dictionary-files/en/index.aff?url&no-inline'),
    import('dictionary-files/en/index.dic?url&no-inline'),
  ],
  'en-GB': () => [
    import('dictionary-files/en-gb/index.aff?url&no-inline'),
    import('dictionary-files/en-gb/index.dic?url&no-inline'),
  ],
  'pt-PT': () => [
    import('dictionary-files/pt-pt/index.aff?url&no-inline'),
    import('dictionary-files/pt-pt/index.dic?url&no-inline'),
  ],
  'pt-BR': () => [
    import('dictionary-files/pt/index.aff?url&no-inline'),
    import('dictionary-files/pt/index.dic?url&no-inline'),
  ],
  es: () => [
    import('dictionary-files/es/index.aff?url&no-inline'),
    import('dictionary-files/es/index.dic?url&no-inline'),
  ],
  fr: () => [
    import('dictionary-files/fr/index.aff?url&no-inline'),
    import('dictionary-files/fr/index.dic?url&no-inline'),
  ],
  de: () => [
    import('dictionary-files/de/index.aff?url&no-inline'),
    import('dictionary-files/de/index.dic?url&no-inline'),
  ],
  it: () => [
    import('dictionary-files/it/index.aff?url&no-inline'),
    import('dictionary-files/it/index.dic?url&no-inline'),
  ],
  nl: () => [
    import('dictionary-files/nl/index.aff?url&no-inline'),
    import('dictionary-files/nl/index.dic?url&no-inline'),
  ],
  pl: () => [
    import('dictionary-files/pl/index.aff?url&no-inline'),
    import('dictionary-files/pl/index.dic?url&no-inline'),
  ],
  sv: () => [
    import('dictionary-files/sv/index.aff?url&no-inline'),
    import('dictionary-files/sv/index.dic?url&no-inline'),
  ],
  da: () => [
    import('dictionary-files/da/index.aff?url&no-inline'),
    import('dictionary-files/da/index.dic?url&no-inline'),
  ],
};

export const allDictionaries = Object.keys(FILES) as Dictionary[];

/** The dictionaries of a language: a word of one of them is right. */
export const dictionariesOf = (language: Written): Dictionary[] =>
  language === 'en' ? ['en-US', 'en-GB'] : [language];

/** A dictionary as Hunspell reads it. Whoever is done with it calls `dispose`. */
export async function openDictionary(name: Dictionary): Promise<Hunspell> {
  const texts = await Promise.all(
    FILES[name]().map(async (file) => {
      const answer = await fetch((await file).default);
      if (!answer.ok) throw new Error(`The dictionary ${name} could not be fetched (${answer.status}).`);
      return answer.text();
    }),
  );
  const [affixes = '', words = ''] = texts;
  const opened = await createHunspellFromStrings(affixes, words);
  for (const word of wordsOfTheTrade) opened.addWord(word);
  return opened;
}
