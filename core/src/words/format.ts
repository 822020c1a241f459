import { currencyDecimals } from './currencies.ts';
import { fromWall, wallOf, zoneOf, type Zone } from '../time/index.ts';
import { tables, type WordTable } from './tables.ts';

/** Languages that dates, numbers and money can be written in. */
export const languages = Object.keys(tables);

/** How one reader's values are written. */
export interface Locale {
  /** BCP 47 tag of the reader, "" where it is not known. */
  language: string;
  /** IANA zone. */
  zone: string;
  /** ISO 4217 code of money that does not say its own. */
  currency: string;
}

/** The table of a language tag: its own, its language's, else English. Every English but America's writes the day first. */
export function tableOf(language: string): WordTable {
  const [tag = '', region] = language.toLowerCase().split(/[-_]/);
  const own = tag === 'en' && region !== undefined && region !== 'us' ? tables['en-GB'] : tables[tag];
  return own ?? (tables['en'] as WordTable);
}

/** Zones of the United States (tz database, zone.tab, rows "US"; from memory). */
const AMERICAN =
  /^(America\/(New_York|Detroit|Chicago|Menominee|Denver|Boise|Phoenix|Los_Angeles|Anchorage|Juneau|Sitka|Metlakatla|Yakutat|Nome|Adak|(Kentucky|Indiana|North_Dakota)\/\w+)|Pacific\/Honolulu|US\/\w+)$/;

/**
 * How a reader's dates are written: by their language, and where that says no region, by that of their zone. English
 * without one is America's only there: nobody in Lisbon reads "March 20, 8:00 PM".
 */
const dateTable = ({ language, zone }: Pick<Locale, 'language' | 'zone'>): WordTable =>
  /^(en)?$/i.test(language) && !AMERICAN.test(zone) ? tableOf('en-GB') : tableOf(language);

const two = (n: number) => String(n).padStart(2, '0');

/** Fills a CLDR date pattern (UTS 35): quoted text stands for itself. */
function fillPattern(pattern: string, table: WordTable, zone: Zone, instant: number): string {
  const w = wallOf(zone, instant);
  const hour12 = w.hour % 12 === 0 ? 12 : w.hour % 12;
  const parts: Record<string, string> = {
    y: String(w.year),
    MMMM: table.months[w.month - 1] ?? '',
    MM: two(w.month),
    M: String(w.month),
    EEEE: table.days[w.weekday] ?? '',
    dd: two(w.day),
    d: String(w.day),
    HH: two(w.hour),
    H: String(w.hour),
    h: String(hour12),
    mm: two(w.minute),
    a: w.hour < 12 ? 'AM' : 'PM',
  };
  return pattern.replace(/'([^']*)'|y+|M+|E+|d+|H+|h+|m+|a/g, (token, quoted: string | undefined) =>
    quoted === undefined ? (parts[/^y/.test(token) ? 'y' : token] ?? token) : quoted,
  );
}

export const dateStyles = ['day', 'weekday', 'short', 'time', 'moment'] as const;
export type DateStyle = (typeof dateStyles)[number];

const DAY_ONLY = /^(\d{4})-(\d{2})-(\d{2})$/;

/**
 * The instant (epoch ms) of a date as ISO 8601 writes it: a day alone begins at midnight of the zone, a time without an
 * offset is the zone's own. Null for anything else.
 */
export function instantOf(value: unknown, zone: Zone): number | null {
  if (typeof value !== 'string') return null;
  const day = DAY_ONLY.exec(value);
  if (day) return fromWall(zone, Date.UTC(Number(day[1]), Number(day[2]) - 1, Number(day[3])));
  if (!/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}/.test(value)) return null;
  const own = /(Z|[+-]\d{2}:?\d{2})$/i.test(value);
  const parsed = Date.parse(own ? value : `${value}Z`);
  if (Number.isNaN(parsed)) return null;
  return own ? parsed : fromWall(zone, parsed);
}

/** An instant in the reader's words: "Thursday 5 March", "18:00", "Thursday 5 March, 18:00". */
export function dateText(instant: number, style: DateStyle, locale: Locale): string {
  const table = dateTable(locale);
  const zone = zoneOf(locale.zone);
  const write = (pattern: string) => fillPattern(pattern, table, zone, instant);
  switch (style) {
    case 'day':
      return write(table.long);
    case 'weekday':
      return write(table.weekday);
    case 'short':
      return write(table.short);
    case 'time':
      return write(table.time);
    case 'moment':
      return `${write(table.weekday)}, ${write(table.time)}`;
  }
}

/** A number with the signs of the language: 1,234.5 or 1.234,5. Digits after the point as they are, or as many as asked. */
export function numberText(value: number, language: string, digits?: number): string {
  const table = tableOf(language);
  const [whole = '', rest] = Math.abs(value)
    .toFixed(digits ?? Math.min(6, decimalsOf(value)))
    .split('.');
  const grouped = whole.length >= 3 + table.groupFrom ? whole.replace(/\B(?=(?:\d{3}){1,100}$)/g, table.group) : whole;
  return `${value < 0 ? '-' : ''}${grouped}${rest ? table.decimal + rest : ''}`;
}
const decimalsOf = (value: number) => (/\.(\d+)$/.exec(String(value))?.[1] ?? '').length;

/** An amount of money in major units: "€18.00", "18,00 €". Digits after the point as the currency has them, or as many as asked. */
export function moneyText(value: number, locale: Locale, digits = currencyDecimals(locale.currency)): string {
  const table = tableOf(locale.language);
  const figure = numberText(Math.abs(value), locale.language, digits);
  const sign = table.currencies[locale.currency] ?? locale.currency;
  // A sign of letters keeps its distance from the figure (UTS 35, currency spacing).
  const spaced = /\p{L}$/u.test(sign) && table.money.startsWith('¤#') ? `${sign}\u00a0` : sign;
  return (
    (value < 0 ? '-' : '') +
    table.money
      .split(';')[0]
      ?.replace('¤', spaced)
      .replace(/[#,0.]+/, figure)
  );
}
