import { describe, expect, test } from 'vitest';
import type { Facts } from '../src/audience/index.ts';
import { blankOffer, sampleCode, type Offer, type OfferFact } from '../src/offer/index.ts';
import { rehearse } from '../src/rehearsal/index.ts';
import { advance, enter, prepare, type EmailStep, type Step } from '../src/sequence/index.ts';
import { branchStep, DAY, emailStep, event, facts, HOUR, NOON, sequence, waitStep } from './support.ts';

const offer: Offer = { ...blankOffer(), name: 'Kit offer', around: { before: '', after: 'one order' } };
const fact = (more: Partial<OfferFact> = {}, some: Partial<Offer> = {}): OfferFact => ({
  offer: { ...offer, ...some },
  given: null,
  stock: true,
  ...more,
});
const making = (name: string, more: Partial<EmailStep> = {}): EmailStep => {
  const step = emailStep(name, more);
  return { ...step, email: { ...step.email, offer: 'kit' } };
};
/** One call of advance for somebody who stands before the first step. */
function once(steps: Step[], kit: OfferFact | null, more: Partial<Facts> = {}, at = NOON) {
  const run = prepare(sequence(steps));
  const known = facts({}, { offers: kit ? { kit } : {}, ...more });
  const done = advance(enter('v', 's', 1, run, at, {}), run, known, at);
  return { ...done, codes: done.trace.map((t) => t.code) };
}
const ofKind = (effects: { kind: string }[], kind: string) => effects.filter((e) => e.kind === kind);

describe('an email that makes an offer', () => {
  test('opens it once: the deadline counts from the decided moment, a code is asked for, and a second email at the same instant opens nothing', () => {
    const { effects, codes } = once([making('Gift'), making('Twice')], fact());
    expect(ofKind(effects, 'grant')).toEqual([
      {
        kind: 'grant',
        step: expect.any(String),
        offer: 'kit',
        at: NOON,
        closes: NOON + 48 * HOUR,
        code: 'own',
        discount: offer.discount,
      },
    ]);
    expect(ofKind(effects, 'send')).toHaveLength(2);
    expect(codes).toEqual(['offer-opened', 'email-sent', 'email-sent', 'reached-end']);
  });

  test('what was just given is there for a branch behind it', () => {
    const within = { amount: 1, unit: 'hours' } as const;
    const branch = branchStep({ kind: 'offer', offer: 'kit', state: 'open', within, is: true }, []);
    expect(once([making('Gift'), branch], fact()).codes).toContain('branch-taken');
    expect(once([branch], fact()).codes).toContain('branch-otherwise');
  });

  test.each<[string, OfferFact | null, string]>([
    ['closed', fact({ given: { openedAt: NOON - 3 * DAY, closesAt: NOON, code: 'A', usedAt: null } }), 'offer-closed'],
    [
      'used',
      fact({ given: { openedAt: NOON - DAY, closesAt: NOON + DAY, code: 'A', usedAt: NOON - 1 } }),
      'offer-used',
    ],
    ['gone', null, 'offer-gone'],
    [
      'closed for everyone before it was given',
      fact({}, { deadline: { kind: 'fixed', wall: '2026-03-06T12:00', zone: 'Europe/Lisbon' } }),
      'offer-closed',
    ],
    [
      'without a date to count from',
      fact({}, { deadline: { kind: 'attribute', field: 'renews_on', days: 0, minute: null } }),
      'offer-undated',
    ],
  ])('is left out where the offer is %s, and says so', (_what, kit, code) => {
    const { effects, codes } = once([making('Gift')], kit);
    expect(effects).toEqual([]);
    expect(codes).toEqual([code, 'reached-end']);
  });

  test('whoever has it already keeps their moment, whatever the offer says now', () => {
    const given = { openedAt: NOON - HOUR, closesAt: NOON + 7, code: 'A', usedAt: null };
    const { effects } = once([making('Reminder')], fact({ given }, { deadline: { kind: 'never' } }));
    expect(effects.map((e) => e.kind)).toEqual(['send']);
  });

  test('counts from an event: from the last that has happened', () => {
    const deadline = {
      kind: 'after',
      from: 'event',
      event: 'order.begun',
      amount: 1,
      unit: 'days',
      minute: 1080,
    } as const;
    const events = [
      event('order.begun', NOON - 5 * DAY),
      event('order.begun', NOON - 2 * HOUR),
      event('order.begun', NOON + HOUR),
    ];
    const { effects } = once([making('Gift')], fact({}, { deadline }), { events });
    // Friday 10:00 in Lisbon, so Saturday at 18:00.
    expect(ofKind(effects, 'grant')).toMatchObject([{ closes: Date.UTC(2026, 2, 7, 18) }]);
  });

  test('asks again when its window opens: what closed meanwhile does not go', () => {
    const monday = { days: [1], from: 480, to: 600 };
    const run = prepare(sequence([making('Late', { window: monday })]));
    const given = { openedAt: NOON, closesAt: NOON + 2 * DAY, code: 'A', usedAt: null };
    const known = facts({}, { offers: { kit: fact({ given }) } });
    const held = advance(enter('v', 's', 1, run, NOON, {}), run, known, NOON);
    expect(held.trace.map((t) => t.code)).toEqual(['email-held']);
    const after = advance(held.visit, run, known, held.visit.dueAt);
    expect(after.trace.map((t) => t.code)).toEqual(['offer-closed', 'reached-end']);
  });
});

describe('no code is left', () => {
  test.each([
    [{ kind: 'shared', code: 'SPARE' } as const, { same: 'SPARE' }],
    [{ kind: 'without' } as const, null],
  ])('%j', (empty, code) => {
    expect(ofKind(once([making('Gift')], fact({ stock: false }, { empty })).effects, 'grant')).toMatchObject([
      { code },
    ]);
  });

  test('hold: looks again every hour, tells it once, and asks its window anew when there are some', () => {
    const night = { days: [0, 1, 2, 3, 4, 5, 6], from: 480, to: 1200 };
    const run = prepare(sequence([making('Gift', { window: night })]));
    const none = facts({}, { offers: { kit: fact({ stock: false }) } });
    let visit = enter('v', 's', 1, run, NOON, {});
    const told: string[] = [];
    for (let i = 0; i < 9; i++) {
      const done = advance(visit, run, none, visit.dueAt);
      told.push(...done.trace.map((t) => t.code));
      visit = done.visit;
      if (i < 7) expect(visit.dueAt).toBe(NOON + (i + 1) * HOUR);
    }
    expect(told).toEqual(['offer-empty', 'email-held']);
    const some = advance(visit, run, facts({}, { offers: { kit: fact() } }), visit.dueAt);
    expect(some.effects.map((e) => e.kind)).toEqual(['grant', 'send']);
    // 8:00 in the morning after.
    expect(some.visit.stepTimes[run.sequence.steps[0]?.id ?? '']).toBe(Date.UTC(2026, 2, 7, 8));
  });

  test('codes that everybody shares do not run out', () => {
    const shared = { codes: { kind: 'shared', code: 'PAPER10' } } as const;
    expect(ofKind(once([making('Gift')], fact({ stock: false }, shared)).effects, 'grant')).toMatchObject([
      { code: { same: 'PAPER10' } },
    ]);
  });
});

test('a rehearsal is given a sample, never a code, and sees the later email left out', () => {
  const steps = [making('Gift'), waitStep(1), making('Reminder'), waitStep(3), making('Late')];
  const known = facts({}, { offers: { kit: fact() } });
  const { moments } = rehearse({
    sequence: sequence(steps),
    facts: known,
    at: NOON,
    entry: {},
    usually: { does: 'ignores' },
    emails: {},
    events: [],
  });
  expect(moments.filter((m) => m.kind === 'email').map((m) => m.at - NOON)).toEqual([0, DAY]);
  expect(
    moments.flatMap((m) => (m.kind === 'decided' && m.entry.code.startsWith('offer') ? [m.entry.code] : [])),
  ).toEqual(['offer-opened', 'offer-closed']);
  expect(known.offers?.kit?.given).toBeNull();
  expect(sampleCode(offer)).toBe('SAMP-LESA');
});
