import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import { addPeriod, fromWall, nextInWindow, offsetAt, wallOf, zoneOf } from '../src/time/index.ts';

const lisbon = zoneOf('Europe/Lisbon');
const at = (iso: string) => Temporal.ZonedDateTime.from(iso).epochMilliseconds;
// Zones on whose rules Node's data and ours agree (see the design's findings on zone data).
const zones = ['Europe/Lisbon', 'America/New_York', 'Asia/Tokyo', 'Asia/Kolkata', 'Australia/Sydney', 'Africa/Lagos'];
const moment = fc.integer({ min: Date.UTC(2000, 0, 1), max: Date.UTC(2036, 0, 1) });

describe('against the ECMAScript Temporal proposal (temporal-polyfill)', () => {
  test('days keep the wall time, "compatible" in gaps and repeated hours', () => {
    fc.assert(
      fc.property(fc.constantFrom(...zones), moment, fc.integer({ min: 1, max: 400 }), (name, instant, days) => {
        const theirs = Temporal.Instant.fromEpochMilliseconds(instant).toZonedDateTimeISO(name).add({ days });
        expect(addPeriod(zoneOf(name), instant, days, 'days')).toBe(theirs.epochMilliseconds);
      }),
      { numRuns: 3000 },
    );
  });

  test('offsets at random instants', () => {
    fc.assert(
      fc.property(fc.constantFrom(...zones), moment, (name, instant) => {
        const theirs = Temporal.Instant.fromEpochMilliseconds(instant).toZonedDateTimeISO(name).offsetNanoseconds / 1e6;
        expect(offsetAt(zoneOf(name), instant)).toBe(theirs);
      }),
      { numRuns: 3000 },
    );
  });

  test('the last rule goes on after the end of the data', () => {
    expect(wallOf(lisbon, Date.UTC(2060, 6, 1, 12)).hour).toBe(13);
    expect(wallOf(lisbon, Date.UTC(2060, 0, 1, 12)).hour).toBe(12);
  });
});

describe('windows', () => {
  const fridayAtEight = { days: [5], from: 480, to: 481 };
  test('a step for Fridays at 8:00, reached on a Friday at noon, goes out the Friday after (common practice, no published source)', () => {
    const noon = at('2026-03-06T12:00[Europe/Lisbon]');
    expect(nextInWindow(lisbon, fridayAtEight, noon)).toBe(at('2026-03-13T08:00[Europe/Lisbon]'));
  });
  test('an open window is now', () => {
    const noon = at('2026-03-06T12:00[Europe/Lisbon]');
    expect(nextInWindow(lisbon, { days: [1, 2, 3, 4, 5], from: 480, to: 1080 }, noon)).toBe(noon);
  });
  test('the answer lies in the window and no quarter of an hour before it does', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        moment,
        fc.uniqueArray(fc.integer({ min: 0, max: 6 }), { minLength: 1 }),
        (name, instant, days) => {
          const zone = zoneOf(name);
          const open = (t: number) => {
            const w = wallOf(zone, t);
            return days.includes(w.weekday) && w.hour >= 8 && w.hour < 18;
          };
          const found = nextInWindow(zone, { days, from: 480, to: 1080 }, instant);
          expect(open(found)).toBe(true);
          for (let t = instant; t < found; t += 900_000) expect(open(t)).toBe(false);
        },
      ),
      { numRuns: 300 },
    );
  });
  test('a wall time in a gap moves forward by the gap', () => {
    expect(fromWall(lisbon, Date.UTC(2026, 2, 29, 1, 30))).toBe(at('2026-03-29T02:30[Europe/Lisbon]'));
  });
});
