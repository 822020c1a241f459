import { describe, expect, test } from 'vitest';
import { dayInWords, readDay, readTime, timeInWords } from '../src/ui/region.ts';

const TODAY = '2026-03-06';

describe('a day is read as its region writes it', () => {
  test.each(['en-GB', 'en-US', 'de-DE', 'pt-PT', 'fr-FR', 'sv-SE', 'pl-PL', 'nl-NL'])('%s', (locale) => {
    for (let at = Date.UTC(2026, 0, 1); at < Date.UTC(2027, 0, 1); at += 86_400_000) {
      const day = new Date(at).toISOString().slice(0, 10);
      // What the field itself shows, what a spreadsheet of that region shows, and ISO 8601.
      expect(readDay(dayInWords(day, locale), TODAY, locale)).toBe(day);
      expect(readDay(new Intl.DateTimeFormat(locale, { timeZone: 'UTC' }).format(at), TODAY, locale)).toBe(day);
      expect(readDay(day, TODAY, locale)).toBe(day);
    }
  });

  test.each([
    ['24 March', '2026-03-24'],
    ['24/3', '2026-03-24'],
    ['24.3.27', '2027-03-24'],
    ['30 February', null],
    ['tomorrow', null],
    ['', null],
  ] as const)('“%s” is %s', (typed, wanted) => expect(readDay(typed, TODAY, 'en-GB')).toBe(wanted));
});

describe('a time of day is read however it is typed', () => {
  test('every minute, as two regions show it', () => {
    for (let m = 0; m < 1440; m++)
      for (const locale of ['en-GB', 'en-US', 'de-DE']) expect(readTime(timeInWords(m, locale))).toBe(m);
  });

  test.each([
    ['9', 540],
    ['18.30', 1110],
    ['1830', 1110],
    ['6pm', 1080],
    ['6:15 p.m.', 1095],
    ['12am', 0],
    ['24:00', null],
    ['13pm', null],
    ['soon', null],
  ] as const)('“%s” is %s', (typed, wanted) => expect(readTime(typed)).toBe(wanted));
});
