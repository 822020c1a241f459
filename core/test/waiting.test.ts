import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import { daysBetween, plainNames, stepWords, waitEnd, waitLength, zoneOf, type WaitStep } from '../src/index.ts';
import { DAY, HOUR, NOON, waitStep } from './support.ts';

const unit = fc.constantFrom<WaitStep['unit']>('minutes', 'hours', 'days', 'weeks');
const part = fc.record({ amount: fc.nat(60), unit });
// Zones whose rules Node's own data and ours agree on; one of them moves its clocks by half an hour.
const zones = ['UTC', 'Europe/Lisbon', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kolkata'];

describe('a wait of two parts', () => {
  // Temporal (ECMA-262 proposal, stage 4), ZonedDateTime.add: dates by the calendar first, then the exact time.
  test('ends where the calendar and then the clock lead, whichever part is named first', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: NOON, max: NOON + 700 * DAY }),
        part,
        part,
        (name, from, first, more) => {
          const sum = { weeks: 0, days: 0, hours: 0, minutes: 0 };
          for (const p of [first, more]) sum[p.unit] += p.amount;
          const end = Temporal.Instant.fromEpochMilliseconds(from).toZonedDateTimeISO(name).add(sum).epochMilliseconds;
          const wait: WaitStep = { ...waitStep(first.amount, first.unit), more };
          // Two parts of weeks and days are one date to Temporal, and two to a wait that passes through an hour that is not.
          fc.pre(!(['weeks', 'days'].includes(first.unit) && ['weeks', 'days'].includes(more.unit)));
          expect(waitEnd(zoneOf(name), from, wait)).toBe(end);
        },
      ),
      { numRuns: 2_000 },
    );
  });

  test('is told with both, and days say what lies between', () => {
    const wait: WaitStep = { ...waitStep(1, 'hours'), more: { amount: 2, unit: 'days' } };
    expect(stepWords(wait, plainNames)).toBe('2 days and 1 hour later');
    expect(waitLength(wait)).toBe(2 * DAY + HOUR);
    expect([waitStep(1), waitStep(2), waitStep(24, 'hours'), wait].map(daysBetween)).toEqual([
      'the next day',
      '1 day between',
      '',
      '',
    ]);
  });
});
