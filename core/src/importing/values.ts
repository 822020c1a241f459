import type { Value } from '../audience/index.ts';
import type { ImportPlan, ValueKind } from './plan.ts';

/** How dates, numbers and answers are written in a file. */
export type Writing = Pick<ImportPlan, 'days' | 'decimal' | 'yes' | 'no'>;

/** A value that was read, or why it cannot be. */
export type Reading = { ok: true; value: Value } | { ok: false; why: string };

const LONGEST = 2_000;
const quoted = (text: string) => `“${text.length > 40 ? `${text.slice(0, 40)} …` : text}”`;
const no = (why: string): Reading => ({ ok: false, why });
const yes = (value: Value): Reading => ({ ok: true, value });

/** Figures alone are read the same everywhere: most cells are such. */
const PLAIN_NUMBER = /^\d{1,15}$/;

/** Two figures of a year are of the century that lies nearest behind: 31 to 99 are of the 1900s. */
const CENTURY_ENDS = 30;

/** A day as `YYYY-MM-DD`, or null where the calendar has no such day. A time of day behind it is left out. */
export function readDate(text: string, order: Writing['days']): string | null {
  const found =
    /^(\d{1,4})\s{0,3}[-/.\s]\s{0,3}(\d{1,2})\s{0,3}[-/.\s]\s{0,3}(\d{1,4})\.?(?:[T\s,]+\d{1,2}:\d{2}.*)?$/.exec(
      text.trim(),
    );
  if (!found) return null;
  const [a, b, c] = [found[1], found[2], found[3]] as [string, string, string];
  const [y, m, d] = a.length > 2 || order === 'ymd' ? [a, b, c] : order === 'dmy' ? [c, b, a] : [c, a, b];
  if (d.length > 2 || y.length === 1 || y.length === 3) return null;
  const year = y.length === 4 ? Number(y) : Number(y) + (Number(y) > CENTURY_ENDS ? 1900 : 2000);
  const at = new Date(Date.UTC(year, Number(m) - 1, Number(d)));
  if (year < 100 || at.getUTCMonth() !== Number(m) - 1 || at.getUTCDate() !== Number(d)) return null;
  return at.toISOString().slice(0, 10);
}

/** A number with its groups of thousands and a currency's sign; null where it is none. */
export function readNumber(text: string, decimal: Writing['decimal']): number | null {
  const bare = text.replace(/^[^\d,.+-]+|[^\d]{1,40}$/gu, '').replace(/[\s'’\u00a0\u202f]/gu, '');
  const group = decimal === '.' ? ',' : '.';
  const [whole = '', fraction, more] = bare.split(decimal);
  if (more !== undefined || (fraction !== undefined && !/^\d*$/.test(fraction))) return null;
  const ungrouped = whole.includes(group)
    ? /^[+-]?[1-9]\d{0,2}([.,]\d{3})+$/.test(whole)
      ? whole.replaceAll(group, '')
      : null
    : whole;
  if (ungrouped === null || !/^[+-]?\d*$/.test(ungrouped) || !/\d/.test(ungrouped + (fraction ?? ''))) return null;
  const value = Number(`${ungrouped || '0'}.${fraction || '0'}`);
  return Number.isFinite(value) && /\d/.test(text) && !/\p{L}{4,}/u.test(text) ? value : null;
}

/** Whether a number is another one when a comma, instead of a point, parts its whole from its fraction: 1.000, 2,500. */
export function eitherWay(text: string): boolean {
  if (!/^[^\d]*\d{1,3}[.,]\d{3}\D*$/.test(text)) return false;
  const [point, comma] = [readNumber(text, '.'), readNumber(text, ',')];
  return point !== null && comma !== null && point !== comma;
}

/** What parts several things in one cell. */
const BETWEEN = /[;,|\n]/;
/** One of several things between quotation marks, doubled where it holds some. */
const QUOTED = /"((?:[^"]|"")*)"[ \t]*(?=[;,|\n]|$)/y;
/** One without. */
const BARE = /[^;,|\n]*/y;

/** The parts of a cell that holds several things, each once. */
export function partsOf(text: string): string[] {
  const parts = new Set<string>();
  for (let at = 0; at < text.length; at++) {
    while (/\s/.test(text[at] ?? '')) at++;
    QUOTED.lastIndex = BARE.lastIndex = at;
    const quoted = text[at] === '"' ? QUOTED.exec(text) : null;
    const bare = quoted ? '' : (BARE.exec(text)?.[0] ?? '');
    const part = quoted ? quoted[1]?.replaceAll('""', '"') : bare.trim();
    if (part) parts.add(part);
    // What stands behind it is a separator, or the end.
    at += quoted ? quoted[0].length : bare.length;
  }
  return [...parts];
}

/** Several things as one cell, so that `partsOf` reads them as they were. */
export const joinParts = (parts: readonly string[]): string =>
  parts
    .map((p) => (BETWEEN.test(p) || p.includes('"') || p !== p.trim() ? `"${p.replaceAll('"', '""')}"` : p))
    .join(', ');

/** What a spreadsheet would run as a formula, with whatever apostrophes stand before it already. */
const FORMULA = /^'*[=+\-@\t\r＝＋－＠]/;

/** A text as a cell that no spreadsheet runs as a formula: with an apostrophe before it, where it could be one. */
export const harmless = (text: string): string => (FORMULA.test(text) ? `'${text}` : text);

/** A cell as it was before `harmless` wrote it. */
export const unharmed = (cell: string): string => (cell.startsWith("'") && FORMULA.test(cell) ? cell.slice(1) : cell);

/** How many different cells of a column are remembered, and how long they may be. */
const REMEMBERED = 4_000;
const LONGEST_REMEMBERED = 100;

/** Makes a reader that reads each of the words of a column once: the same ones stand there again and again. */
export function remembering<T>(read: (text: string) => T): (text: string) => T {
  const known = new Map<string, T>();
  return (text) => {
    if (text.length > LONGEST_REMEMBERED) return read(text);
    let reading = known.get(text);
    if (reading === undefined) {
      reading = read(text);
      if (known.size === REMEMBERED) known.clear();
      known.set(text, reading);
    }
    return reading;
  };
}

const lower = (words: readonly string[]): ReadonlySet<string> => new Set(words.map((w) => w.toLowerCase()));

/** Makes what reads the cells of one column, which are not empty, as the values of an attribute. */
export function valueReader({ type, options }: ValueKind, writing: Writing): (text: string) => Reading {
  const tooLong = (text: string) => no(`is ${text.length} characters long: ${LONGEST} are the most`);
  const within = (read: (text: string) => Reading) => (text: string) =>
    text.length > LONGEST ? tooLong(text) : read(text);
  switch (type) {
    case 'text': {
      if (options.length === 0) return within(yes);
      const known = new Map(options.map((o) => [o.toLowerCase(), o]));
      return within((text) => {
        const option = known.get(text.toLowerCase());
        return option === undefined ? no(`${quoted(text)} is none of ${options.join(', ')}`) : yes(option);
      });
    }
    case 'list':
      return remembering(within((text) => yes(partsOf(text))));
    case 'number':
      return within((text) => {
        const n = PLAIN_NUMBER.test(text) ? Number(text) : readNumber(text, writing.decimal);
        return n === null ? no(`${quoted(text)} is no number, ${WRITTEN[writing.decimal]}`) : yes(n);
      });
    case 'date':
      return remembering((text) => {
        const day = readDate(text, writing.days);
        return day === null ? no(`${quoted(text)} is no date, read as ${DAY_ORDER[writing.days]}`) : yes(day);
      });
    case 'yes-no': {
      const [yeses, noes] = [lower(writing.yes), lower(writing.no)];
      return within((text) => {
        const word = text.toLowerCase();
        if (yeses.has(word)) return yes(true);
        return noes.has(word) ? yes(false) : no(`${quoted(text)} is neither yes nor no`);
      });
    }
  }
}

/** How numbers are written, by what parts whole from fraction: words that go on after "is no number". */
export const WRITTEN = { '.': 'written as 1,234.5', ',': 'written as 1.234,5' } as const;

export const DAY_ORDER = { dmy: 'day, month, year', mdy: 'month, day, year', ymd: 'year, month, day' } as const;
