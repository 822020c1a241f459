import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { code as isoCode, codes } from 'currency-codes';
import { currencyDecimals, toMajor, toMinor } from '../src/words/index.ts';
import { dateText, instantOf, languages, moneyText, numberText } from '../src/words/index.ts';
import { zoneOf } from '../src/time/index.ts';

// The platform's Intl is the judge here, and only here: it carries the same CLDR, perhaps another edition of it.
const plain = (s: string) => s.replace(/[\u00a0\u202f\u2009]/g, ' ');
const locale = (language: string, currency = 'EUR') => ({ language, zone: 'Europe/Lisbon', currency });

describe('money', () => {
  // The oracle is the currency-codes package, made from ISO 4217's list one. Metals and testing codes have no minor unit.
  const real = codes().filter((c) => !/^X/.test(c) || ['XAF', 'XOF', 'XPF', 'XCD'].includes(c));
  test('every currency has the decimals that ISO 4217 says', () => {
    expect(real.length).toBeGreaterThan(150);
    expect(real.map((c) => [c, currencyDecimals(c)])).toEqual(real.map((c) => [c, isoCode(c)?.digits]));
  });

  test('an amount comes back as it was from minor units, in any currency', () => {
    fc.assert(
      fc.property(fc.constantFrom(...real), fc.integer({ min: 0, max: 10_000_000 }), (currency, minor) => {
        expect(toMinor(toMajor(minor, currency), currency)).toBe(minor);
      }),
    );
    // By value, from memory: 100 times 1.005 is a little less than 100.5 in doubles.
    expect([
      toMinor(1.005, 'EUR'),
      toMinor(28.8, 'EUR'),
      toMinor(2880, 'JPY'),
      toMinor(1.2345, 'KWD'),
      toMinor(1e-7, 'EUR'),
    ]).toEqual([101, 2880, 2880, 1235, 0]);
    expect(moneyText(1.5, locale('en-GB', 'KWD'))).toContain('1.500');
  });
});

describe('against Intl', () => {
  // A region that the language does not say is that of the zone.
  const inZones: [language: string, zone: string, judge: string][] = [
    ...languages.map((l): [string, string, string] => [l, 'Europe/Lisbon', l === 'en' ? 'en-GB' : l]),
    ['', 'Europe/Lisbon', 'en-GB'],
    ['', 'Asia/Kathmandu', 'en-GB'],
    ['', 'America/New_York', 'en-US'],
    ['en', 'America/Indiana/Vevay', 'en-US'],
    ['en', 'Pacific/Honolulu', 'en-US'],
    ['en-US', 'Europe/Lisbon', 'en-US'],
    ['en-AU', 'America/New_York', 'en-GB'],
    ['de', 'America/New_York', 'de'],
  ];
  test.each(inZones)('dates in “%s” in %s', (language, zone, judge) => {
    fc.assert(
      fc.property(fc.integer({ min: Date.UTC(2000, 0), max: Date.UTC(2030, 0) }), (at) => {
        const intl = (o: Intl.DateTimeFormatOptions) =>
          plain(new Intl.DateTimeFormat(judge, { timeZone: zone, ...o }).format(at));
        const reader = { ...locale(language), zone };
        const ours = (style: 'day' | 'weekday' | 'short' | 'time') => plain(dateText(at, style, reader));
        expect(ours('day')).toBe(intl({ dateStyle: 'long' }));
        expect(ours('weekday')).toBe(intl({ weekday: 'long', day: 'numeric', month: 'long' }));
        expect(ours('short')).toBe(intl({ year: 'numeric', month: 'numeric', day: 'numeric' }));
        expect(ours('time')).toBe(intl({ timeStyle: 'short' }));
      }),
      { numRuns: 60 },
    );
  });

  test.each(languages)('numbers and money in %s', (language) => {
    fc.assert(
      fc.property(
        fc.integer({ min: -5_000_000, max: 5_000_000 }),
        fc.constantFrom('EUR', 'USD', 'GBP', 'CHF', 'JPY'),
        (cents, currency) => {
          const value = cents / 100;
          expect(plain(numberText(value, language))).toBe(
            plain(new Intl.NumberFormat(language, { maximumFractionDigits: 6 }).format(value))
              .replace('−', '-')
              .replace(/^-0$/, '0'),
          );
          const money = plain(new Intl.NumberFormat(language, { style: 'currency', currency }).format(Math.abs(value)));
          expect(plain(moneyText(Math.abs(value), locale(language, currency)))).toBe(money);
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('what counts as a date', () => {
  const lisbon = zoneOf('Europe/Lisbon');
  test.each([
    ['2026-07-01', '2026-06-30T23:00:00.000Z'],
    ['2026-07-01T19:00', '2026-07-01T18:00:00.000Z'],
    ['2026-07-01T19:00:00+02:00', '2026-07-01T17:00:00.000Z'],
    ['2026-07-01T19:00:00Z', '2026-07-01T19:00:00.000Z'],
  ])('%s', (text, iso) => {
    expect(new Date(instantOf(text, lisbon) as number).toISOString()).toBe(iso);
  });
  test.each(['Tuesday', '7/1/2026', 20260701, null])('%s is none', (value) => {
    expect(instantOf(value, lisbon)).toBeNull();
  });
});
