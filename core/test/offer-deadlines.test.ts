import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import {
  blankOffer,
  closesAt,
  describeOffer,
  offerState,
  offerValues,
  sampleGiven,
  withSamples,
  type Deadline,
  type Offer,
  type OfferFact,
} from '../src/offer/index.ts';
import { zoneOf } from '../src/time/index.ts';
import { durationText, languages, plural, unitLabel } from '../src/words/index.ts';
import { NOON } from './support.ts';

const HOUR = 3_600_000;
const opening = (zone: string, email = NOON, more: Record<string, unknown> = {}) => ({
  zone: zoneOf(zone),
  email,
  entry: email - 24 * HOUR,
  event: () => null,
  attribute: (key: string) => more[key],
});
const after = (amount: number, unit: 'hours' | 'days' | 'weeks', minute: number | null = null): Deadline => ({
  kind: 'after',
  from: 'email',
  event: '',
  amount,
  unit,
  minute,
});
const iso = (at: number | null) => (at === null ? null : new Date(at).toISOString());

describe('deadlines', () => {
  test.each<[string, Deadline, string, string | null]>([
    [
      '48 hours are 48 hours, across the change of clocks of 29 March 2026',
      after(48, 'hours'),
      '2026-03-28T12:00Z',
      '2026-03-30T12:00:00.000Z',
    ],
    [
      'two days keep the hour, across the change of clocks',
      after(2, 'days'),
      '2026-03-28T12:00Z',
      '2026-03-30T11:00:00.000Z',
    ],
    ['until 18:00 on the second day', after(2, 'days', 1080), '2026-03-28T12:00Z', '2026-03-30T17:00:00.000Z'],
    ['until midnight of the day itself', after(0, 'days', 1439), '2026-03-28T12:00Z', '2026-03-28T23:59:00.000Z'],
    [
      'a fixed moment is the wall time of its zone',
      { kind: 'fixed', wall: '2026-03-31T18:00', zone: 'America/New_York' },
      '2026-03-28T12:00Z',
      '2026-03-31T22:00:00.000Z',
    ],
    [
      'a fixed moment that the gap swallows moves on by it',
      { kind: 'fixed', wall: '2026-03-29T01:30', zone: 'Europe/Lisbon' },
      '2026-03-28T12:00Z',
      '2026-03-29T01:30:00.000Z',
    ],
    [
      'three days before a date, at 9:00',
      { kind: 'attribute', field: 'renews_on', days: -3, minute: 540 },
      '2026-03-28T12:00Z',
      '2026-04-07T08:00:00.000Z',
    ],
    [
      'a date that is not known',
      { kind: 'attribute', field: 'birthday', days: 0, minute: null },
      '2026-03-28T12:00Z',
      null,
    ],
    [
      'an event that never was',
      { ...after(2, 'days'), from: 'event', event: 'order.begun' } as Deadline,
      '2026-03-28T12:00Z',
      null,
    ],
  ])('%s', (_what, deadline, email, expected) => {
    expect(iso(closesAt(deadline, opening('Europe/Lisbon', Date.parse(email), { renews_on: '2026-04-10' })))).toBe(
      expected,
    );
  });

  test('days at an hour are what Temporal reckons, in many zones', () => {
    const zones = [
      'Europe/Lisbon',
      'America/New_York',
      'Australia/Lord_Howe',
      'Asia/Kolkata',
      'America/Santiago',
      'Pacific/Auckland',
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: Date.UTC(2015, 0), max: Date.UTC(2025, 0) }),
        fc.nat(40),
        fc.integer({ min: 0, max: 1439 }),
        (zone, email, days, minute) => {
          const local = Temporal.Instant.fromEpochMilliseconds(email)
            .toZonedDateTimeISO(zone)
            .toPlainDate()
            .add({ days });
          const wanted = local.toZonedDateTime({
            timeZone: zone,
            plainTime: { hour: Math.floor(minute / 60), minute: minute % 60 },
          });
          expect(closesAt(after(days, 'days', minute), opening(zone, email))).toBe(wanted.epochMilliseconds);
        },
      ),
    );
  });

  test('states: the deadline itself is closed, used counts before closed', () => {
    const given = { openedAt: 100, closesAt: 200, code: 'A1', usedAt: null };
    expect([50, 100, 199, 200, 300].map((now) => offerState(given, now))).toEqual([
      'none',
      'open',
      'open',
      'closed',
      'closed',
    ]);
    expect([150, 160, 300].map((now) => offerState({ ...given, usedAt: 160 }, now))).toEqual(['open', 'used', 'used']);
    expect(offerState({ ...given, closesAt: null }, 9e15)).toBe('open');
    expect(offerState(null, 150)).toBe('none');
  });
});

describe('in words', () => {
  const offer: Offer = { ...blankOffer(), name: 'Kit offer', around: { before: '', after: 'one order' } };
  const names = { event: () => 'Began an order', email: 'Kit offer' };

  test('one sentence says the whole offer', () => {
    expect(describeOffer(offer, names)).toBe(
      '10% off one order, with a code of their own for each person; closes 48 hours after “Kit offer”.',
    );
    const fixed: Offer = {
      ...offer,
      codes: { kind: 'shared', code: 'PAPER10' },
      deadline: { kind: 'fixed', wall: '2026-03-31T18:00', zone: 'Europe/Lisbon' },
    };
    expect(describeOffer(fixed, names)).toBe(
      '10% off one order, with one code for everyone, PAPER10; closes on Tue 31 Mar, 18:00 in Lisbon.',
    );
  });

  test('merge fields: the code, the deadline, the time left in the reader’s language', () => {
    const given = { openedAt: NOON, closesAt: NOON + 48 * HOUR, code: 'KIT-AC34', usedAt: null };
    expect(offerValues(offer, given, NOON, 'pl')).toMatchObject({
      code: 'KIT-AC34',
      deadline: '2026-03-08T12:00:00.000Z',
      left: '2 dni',
    });
    expect(offerValues(offer, null, NOON, 'pl')).toMatchObject({ code: '', deadline: '', left: '' });
    // A preview shows a code that is marked, and the deadline that would be theirs.
    expect(sampleGiven(offer, opening('Europe/Lisbon'))).toEqual({
      openedAt: NOON,
      closesAt: NOON + 48 * HOUR,
      code: 'SAMP-LESA',
      usedAt: null,
    });
  });

  // The platform's Intl is the judge here: its plural rules are the CLDR's.
  test.each(languages)('plural forms of %s', (language) => {
    const rules = new Intl.PluralRules(language);
    for (let n = 0; n < 1200; n++) expect(`${n} ${plural(n, language)}`).toBe(`${n} ${rules.select(n)}`);
    const plain = (s: string) => s.replace(/[\u00a0\u202f]/g, ' ');
    for (const unit of ['day', 'hour', 'minute', 'second'] as const)
      for (const n of [0, 1, 2, 5, 12, 22]) {
        const intl = plain(new Intl.NumberFormat(language, { style: 'unit', unit, unitDisplay: 'long' }).format(n));
        expect(`${n} ${plain(unitLabel(n, unit, language))}`).toBe(intl);
      }
  });

  test('a length of time is told in whole units, never more than is left', () => {
    expect([49 * HOUR, 48 * HOUR - 1, 2 * HOUR, 2 * HOUR - 1, 0, -5].map((ms) => durationText(ms, 'en'))).toEqual([
      '2 days',
      '47 hours',
      '2 hours',
      '119 minutes',
      '0 minutes',
      '0 minutes',
    ]);
  });
});

test('a sample of an offer counts from what they last did, and leaves alone when theirs was opened', () => {
  const offer = {
    name: 'Ten off',
    codes: { kind: 'none' },
    deadline: { kind: 'after', amount: 48, unit: 'hours', from: 'event', event: 'order.begun', minute: null },
  } as unknown as Offer;
  const facts = {
    person: { zone: 'UTC', attributes: {} },
    events: [
      { name: 'order.begun', at: NOON - 3_600_000 },
      { name: 'order.begun', at: NOON - 60_000 },
      { name: 'order.begun', at: NOON + 60_000 },
    ],
    offers: { o: { offer, given: null, stock: true } } as Record<string, OfferFact>,
  };
  const { offers } = withSamples(facts, NOON);
  expect(offers.o?.given?.closesAt).toBe(NOON - 60_000 + 48 * 3_600_000);
});
