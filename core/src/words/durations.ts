import { tableOf } from './format.ts';
import { DAY, HOUR, MINUTE } from '../time/index.ts';

export type PluralCategory = 'one' | 'few' | 'many' | 'other';
export type DurationUnit = 'day' | 'hour' | 'minute' | 'second';

/**
 * The plural category of a whole number under a million in one of our languages (Unicode CLDR, plural rules, cardinal):
 * a test holds it to Intl.PluralRules.
 */
export function plural(n: number, language: string): PluralCategory {
  const tag = language.toLowerCase().split(/[-_]/)[0];
  if (tag === 'pl') {
    if (n === 1) return 'one';
    const [tens, ones] = [n % 100, n % 10];
    return ones >= 2 && ones <= 4 && !(tens >= 12 && tens <= 14) ? 'few' : 'many';
  }
  if (tag === 'fr' || tag === 'pt') return n <= 1 ? 'one' : 'other';
  return n === 1 ? 'one' : 'other';
}

const patternOf = (n: number, unit: DurationUnit, language: string): string => {
  const patterns = tableOf(language).units[unit];
  return patterns[plural(n, language)] ?? patterns.other ?? '{0}';
};

/** The word for so many of a unit, without the number: "day", "days", "dni". */
export const unitLabel = (n: number, unit: DurationUnit, language: string): string =>
  patternOf(n, unit, language).replace('{0}', '').trim();

/** A length of time (ms) in whole units, rounded down: days from two days on, hours from two hours on, else minutes. */
export function durationText(length: number, language: string): string {
  const left = Math.max(0, length);
  const [size, unit] =
    left >= 2 * DAY
      ? ([DAY, 'day'] as const)
      : left >= 2 * HOUR
        ? ([HOUR, 'hour'] as const)
        : ([MINUTE, 'minute'] as const);
  const n = Math.floor(left / size);
  return patternOf(n, unit, language).replace('{0}', String(n));
}
