import { readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { format, resolveConfig } from 'prettier';
import { root } from './lib/run.mjs';

// Writes core/src/words/tables.ts anew from the CLDR packages: names of months and days, and the patterns of dates,
// numbers, money and durations, of the languages that an email can be written in. Intl is not asked, since it answers differently
// in Node and in browsers.
const LANGUAGES = ['en', 'en-GB', 'pt', 'es', 'fr', 'de', 'it', 'nl', 'pl', 'sv', 'da'];
const CURRENCIES = ['EUR', 'USD', 'GBP', 'CHF', 'SEK', 'DKK', 'NOK', 'PLN', 'CZK', 'CAD', 'AUD', 'BRL', 'JPY'];

const require = createRequire(path.join(root, 'core/package.json'));
const data = (pack, language, file) =>
  JSON.parse(readFileSync(require.resolve(`${pack}/main/${language}/${file}.json`), 'utf8')).main[language];

/** Words for whole numbers from 1 to 12 in all their forms, from the rules by which the CLDR spells numbers out. */
function spelled(language) {
  const { SpelloutRules } = JSON.parse(
    readFileSync(require.resolve(`cldr-rbnf/rbnf/${language.slice(0, 2)}.json`), 'utf8'),
  ).rbnf.rbnf;
  const words = Object.entries(SpelloutRules)
    .filter(([name]) => /spellout-(numbering$|cardinal)/.test(name))
    .flatMap(([, rules]) => rules)
    .filter(([n, word]) => /^([1-9]|1[0-2])$/.test(n) && /^[\p{L}\u00ad]+;$/u.test(word))
    .map(([n, word]) => [word.replace(/[;\u00ad]/g, ''), Number(n)]);
  return Object.fromEntries(words.sort(([, a], [, b]) => a - b));
}

const withLongNames = (a) =>
  a.MMMMEEEEd ?? (a.MMMMEd ?? a.MMMEd.replace('MMM', 'MMMM')).replace(/\bE{1,3}\b|ccc/, 'EEEE');

const tables = Object.fromEntries(
  LANGUAGES.map((language) => {
    const { months, days, dateFormats, timeFormats, dateTimeFormats } = data(
      'cldr-dates-full',
      language,
      'ca-gregorian',
    ).dates.calendars.gregorian;
    const { numbers } = data('cldr-numbers-full', language, 'numbers');
    const { currencies } = data('cldr-numbers-full', language, 'currencies').numbers;
    const { long: units } = data('cldr-units-full', language, 'units').units;
    const unit = (name) =>
      Object.fromEntries(
        Object.entries(units[`duration-${name}`])
          .filter(([k]) => k.startsWith('unitPattern-count-'))
          .map(([k, pattern]) => [k.replace('unitPattern-count-', ''), pattern]),
      );
    const symbols = numbers['symbols-numberSystem-latn'];
    return [
      language,
      {
        months: Object.values(months.format.wide),
        days: ['sun', 'mon', 'tue', 'wed', 'thu', 'fri', 'sat'].map((d) => days.format.wide[d]),
        long: dateFormats.long,
        short: dateTimeFormats.availableFormats.yMd,
        weekday: withLongNames(dateTimeFormats.availableFormats),
        time: timeFormats.short,
        decimal: symbols.decimal,
        group: symbols.group,
        groupFrom: Number(numbers.minimumGroupingDigits),
        money: numbers['currencyFormats-numberSystem-latn'].standard,
        percent: numbers['percentFormats-numberSystem-latn'].standard.replace(/[#,0.]+/, '{0}'),
        spelled: spelled(language),
        units: Object.fromEntries(['week', 'day', 'hour', 'minute', 'second'].map((name) => [name, unit(name)])),
        currencies: Object.fromEntries(CURRENCIES.map((c) => [c, currencies[c]?.symbol ?? c])),
      },
    ];
  }),
);

const file = path.join(root, 'core/src/words/tables.ts');
const text = `// Written by scripts/words.mjs from the Unicode CLDR (Unicode License v3). Not edited by hand.
export interface WordTable {
  months: readonly string[];
  days: readonly string[];
  /** Patterns of the CLDR: a day with its year, in figures, with its weekday, and a time of day. */
  long: string; short: string; weekday: string; time: string;
  decimal: string; group: string;
  /** Digits before the group sign for it to be written at all. */
  groupFrom: number;
  /** Pattern of money; ¤ stands for the currency's sign. */
  money: string;
  /** "{0}%", with a space or without. */
  percent: string;
  /** Words for 1 to 12. */
  spelled: Readonly<Record<string, number>>;
  /** "{0} days", by plural category. */
  units: Readonly<Record<'week' | 'day' | 'hour' | 'minute' | 'second', Readonly<Record<string, string>>>>;
  currencies: Readonly<Record<string, string>>;
}
export const tables: Readonly<Record<string, WordTable>> = ${JSON.stringify(tables)};
`;
writeFileSync(file, await format(text, { ...(await resolveConfig(file)), filepath: file }));
