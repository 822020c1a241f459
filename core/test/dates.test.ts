import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import { clockChange, daysFromDate, nextDayOfYear, nextWeekday, zoneOf } from '../src/time/index.ts';
import { advance, enter, prepare, type WaitAt } from '../src/sequence/index.ts';
import { emailStep, facts, NOON, sequence, waitStep } from './support.ts';

const zones = ['Europe/Lisbon', 'America/New_York', 'Asia/Tokyo', 'Asia/Kolkata', 'Australia/Sydney', 'Africa/Lagos'];
const moment = fc.integer({ min: Date.UTC(2000, 0, 1), max: Date.UTC(2036, 0, 1) });
const zoned = (instant: number, zone: string) =>
  Temporal.Instant.fromEpochMilliseconds(instant).toZonedDateTimeISO(zone);
const atTime = (date: Temporal.PlainDate, zone: string, minute: number) =>
  date.toPlainDateTime({ hour: Math.floor(minute / 60), minute: minute % 60 }).toZonedDateTime(zone).epochMilliseconds;

describe('against the ECMAScript Temporal proposal (temporal-polyfill)', () => {
  test('the next weekday at an hour: the first after the moment, day by day', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        moment,
        fc.subarray([0, 1, 2, 3, 4, 5, 6], { minLength: 1 }),
        fc.nat(1439),
        (zone, from, days, minute) => {
          let day = zoned(from, zone).toPlainDate();
          let theirs = -Infinity;
          for (; theirs <= from; day = day.add({ days: 1 }))
            if (days.includes(day.dayOfWeek % 7)) theirs = atTime(day, zone, minute);
          expect(nextWeekday(zoneOf(zone), from, days, minute)).toBe(theirs);
        },
      ),
      { numRuns: 2000 },
    );
  });

  test('the next change of the clocks, and by how much; none beyond what is asked', () => {
    fc.assert(
      fc.property(fc.constantFrom(...zones, 'Australia/Lord_Howe'), moment, fc.nat(400), (zone, from, days) => {
        const to = from + days * 86_400_000;
        const next = zoned(from, zone).getTimeZoneTransition('next');
        const by = next ? (next.offsetNanoseconds - next.subtract({ nanoseconds: 1 }).offsetNanoseconds) / 1e6 : 0;
        const theirs = next && next.epochMilliseconds <= to ? { at: next.epochMilliseconds, by } : null;
        expect(clockChange(zoneOf(zone), from, to)).toEqual(theirs);
      }),
      { numRuns: 2000 },
    );
  });

  test('the next day of the year, 29 February on the 28th in common years', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        moment,
        fc.integer({ min: 1, max: 12 }),
        fc.integer({ min: 1, max: 31 }),
        fc.nat(1439),
        (zone, from, month, day, minute) => {
          let { year } = zoned(from, zone);
          let theirs = -Infinity;
          for (; theirs <= from; year++)
            theirs = atTime(Temporal.PlainDate.from({ year, month, day }, { overflow: 'constrain' }), zone, minute);
          expect(nextDayOfYear(zoneOf(zone), from, month, day, minute)).toBe(theirs);
        },
      ),
      { numRuns: 2000 },
    );
  });

  test('days before and after a date, at an hour of the local day', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        moment,
        fc.integer({ min: -400, max: 400 }),
        fc.nat(1439),
        (zone, instant, days, minute) => {
          const day = zoned(instant, zone).toPlainDate();
          expect(daysFromDate(zoneOf(zone), day.toString(), days, minute)).toBe(
            atTime(day.add({ days }), zone, minute),
          );
          // The same day told with a time and an offset.
          expect(daysFromDate(zoneOf(zone), new Date(instant).toISOString(), days, minute)).toBe(
            atTime(day.add({ days }), zone, minute),
          );
        },
      ),
      { numRuns: 2000 },
    );
  });

  test.each(['2026-02-30', '2026-13-01', 'soon', '', '6/3/2026', '2026-03-06 12:00'])('“%s” is no date', (text) => {
    expect(daysFromDate(zoneOf('Europe/Lisbon'), text, 0, 0)).toBeNull();
  });
});

describe('waits by the calendar', () => {
  const go = (at: WaitAt, attributes: Record<string, string> = {}, entry: Record<string, unknown> = {}) => {
    const run = prepare(sequence([{ ...waitStep(0), at }, emailStep('Then')]));
    const known = facts({ attributes });
    const begun = advance(enter('v', 'q', 1, run, NOON, entry), run, known, NOON);
    if (begun.visit.status === 'done')
      return { sent: begun.effects.length > 0 ? NOON : null, codes: begun.trace.map((t) => t.code) };
    const done = advance(begun.visit, run, known, begun.visit.dueAt);
    return {
      sent: done.effects.length > 0 ? begun.visit.dueAt : null,
      codes: [...begun.trace, ...done.trace].map((t) => t.code),
    };
  };
  const renewal = (days: number, passed: 'go-on' | 'leave', minute: number | null = 540): WaitAt => ({
    kind: 'date',
    field: 'subscriber.renews_on',
    days,
    minute,
    passed,
  });

  test('“Fridays at 8:00”, reached on a Friday at noon, is the Friday after', () => {
    expect(go({ kind: 'weekday', days: [5], minute: 480 }).sent).toBe(Date.UTC(2026, 2, 13, 8));
    expect(go({ kind: 'weekday', days: [5], minute: 780 }).sent).toBe(Date.UTC(2026, 2, 6, 13));
  });

  test('21 days before a renewal, at nine', () => {
    expect(go(renewal(-21, 'leave'), { renews_on: '2026-05-01' }).sent).toBe(Date.UTC(2026, 3, 10, 8));
  });

  test.each([
    ['has passed, and they leave', renewal(-21, 'leave'), { renews_on: '2026-03-10' }, null, 'date-passed'],
    ['has passed, and they go on at once', renewal(-21, 'go-on'), { renews_on: '2026-03-10' }, NOON, 'date-passed'],
    ['is not known, and they leave', renewal(-21, 'leave'), {}, null, 'date-missing'],
    ['is no date, and they go on', renewal(-21, 'go-on'), { renews_on: 'soon' }, NOON, 'date-missing'],
  ] as const)('a date that %s', (_what, at, attributes, sent, code) => {
    const result = go(at, attributes);
    expect(result.sent).toBe(sent);
    expect(result.codes).toContain(code);
    // Who leaves is not said to have reached the end.
    expect(result.codes.includes('reached-end')).toBe(sent !== null);
  });

  test('an hour of the event’s own: two days after its start, at the same wall time', () => {
    const at: WaitAt = { kind: 'date', field: 'event.starts_at', days: 2, minute: null, passed: 'leave' };
    expect(go(at, {}, { starts_at: '2026-03-28T19:30:00+00:00' }).sent).toBe(Date.UTC(2026, 2, 30, 18, 30));
  });
});
