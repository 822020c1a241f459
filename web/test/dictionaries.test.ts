import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import type { Written } from '@ascenso/core';
import { writtenLanguages } from '@ascenso/core';
import { expect, test, vi } from 'vitest';
import { allDictionaries, dictionariesOf, openDictionary } from '../src/checking/dictionaries.ts';

// The real dictionaries, read by the real Hunspell. What is right and what is wrong was written by hand, from memory: words of a
// bindery that every school dictionary of the language has, and slips of the hand on them.
const WORDS: Record<Exclude<Written, 'en'>, { right: string[]; wrong: [string, string][] }> = {
  'en-US': {
    right: ['color', 'center', 'folded'],
    wrong: [
      ['recieve', 'receive'],
      ['colour', 'color'],
    ],
  },
  'en-GB': {
    right: ['colour', 'centre', 'folded'],
    wrong: [
      ['recieve', 'receive'],
      ['color', 'colour'],
    ],
  },
  'pt-PT': { right: ['papel', 'encadernação', 'receção'], wrong: [['papell', 'papel']] },
  'pt-BR': { right: ['papel', 'encadernação', 'recepção'], wrong: [['papell', 'papel']] },
  es: { right: ['encuadernación', 'papeles', 'mañana'], wrong: [['papeel', 'papel']] },
  fr: { right: ['reliure', "l'atelier", 'papiers'], wrong: [['papiier', 'papier']] },
  de: { right: ['Buchbinderei', 'Papiere', 'Übungsheft'], wrong: [['Papierr', 'Papier']] },
  it: { right: ['rilegatura', "l'offerta", 'carta'], wrong: [['cartta', 'carta']] },
  nl: { right: ['boekbinderij', 'vouwen', 'lespakket'], wrong: [['papierr', 'papier']] },
  pl: { right: ['oprawa', 'książki', 'papieru'], wrong: [['ksiązki', 'książki']] },
  sv: { right: ['bokbinderi', 'vikta', 'papperet'], wrong: [['pappper', 'papper']] },
  da: { right: ['bogbinderi', 'foldede', 'papiret'], wrong: [['papirr', 'papir']] },
};

// As the built page fetches them; here they are files of the packages.
const require = createRequire(import.meta.url);
vi.stubGlobal('fetch', async (address: string) => {
  const [, name = '', file = ''] = /dictionary-([\w-]+)\/(index\.\w+)/.exec(address) ?? [];
  return new Response(readFileSync(path.join(path.dirname(require.resolve(`dictionary-${name}`)), file)));
});

test('every language that an email can be written in has a dictionary, and plain English two', () => {
  expect(new Set(writtenLanguages.flatMap(dictionariesOf))).toEqual(new Set(allDictionaries));
  expect(dictionariesOf('en')).toEqual(['en-US', 'en-GB']);
  expect(Object.keys(WORDS).sort()).toEqual([...allDictionaries].sort());
});

test.each(allDictionaries)('%s knows what is right, and what a slip was meant to be', async (name) => {
  const dictionary = await openDictionary(name);
  const { right, wrong } = WORDS[name];
  for (const word of [...right, 'newsletter']) expect([word, dictionary.testSpelling(word)]).toEqual([word, true]);
  for (const [word, meant] of wrong) {
    expect([word, dictionary.testSpelling(word)]).toEqual([word, false]);
    expect(dictionary.getSpellingSuggestions(word)).toContain(meant);
  }
  dictionary.dispose();
});
