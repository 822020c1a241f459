import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { added, climb, meanDifference, newcombe, wilson, type Group, type Sequence, type Step } from '../src/index.ts';

const rounded = ({ low, high }: { low: number; high: number }) => [low.toFixed(4), high.toFixed(4)].map(Number);

describe('ranges', () => {
  // R. G. Newcombe, Two-sided confidence intervals for the single proportion, Statistics in Medicine 17 (1998), 857–872,
  // table I, method 3 (values from memory).
  test.each([
    [81, 263, [0.2553, 0.3662]],
    [15, 148, [0.0624, 0.1605]],
    [0, 20, [0, 0.1611]],
    [1, 29, [0.0061, 0.1718]],
  ])('Wilson: %i of %i', (part, of, range) => {
    expect(rounded(wilson(part, of))).toEqual(range);
  });

  // R. G. Newcombe, Interval estimation for the difference between independent proportions, Statistics in Medicine 17
  // (1998), 873–890, table II, method 10 (values from memory).
  test.each([
    [56, 70, 48, 80, [0.0524, 0.3339]],
    [9, 10, 3, 10, [0.1705, 0.809]],
    [6, 7, 2, 7, [0.0582, 0.8062]],
    [5, 56, 0, 29, [-0.0381, 0.1926]],
    [0, 10, 0, 20, [-0.1611, 0.2775]],
    [0, 10, 0, 10, [-0.2775, 0.2775]],
    [10, 10, 0, 20, [0.6791, 1]],
    [10, 10, 0, 10, [0.6075, 1]],
  ])('Newcombe: %i of %i less %i of %i', (a, m, b, n, range) => {
    expect(rounded(newcombe({ part: a, of: m }, { part: b, of: n }))).toEqual(range);
  });

  test('a Wilson range ends where the score test would just not refuse it', () => {
    const Z = 1.959963984540054;
    const count = fc
      .integer({ min: 1, max: 5000 })
      .chain((of) => fc.tuple(fc.integer({ min: 1, max: of }), fc.constant(of)));
    fc.assert(
      fc.property(count, ([part, of]) => {
        for (const end of part === of ? [wilson(part, of).low] : Object.values(wilson(part, of)))
          expect(Math.abs(part / of - end) / Math.sqrt((end * (1 - end)) / of)).toBeCloseTo(Z, 6);
      }),
    );
  });

  test('the range of a difference of means holds the true one in about 95 of 100 samples', () => {
    // A small generator of our own, so that every run sees the same 2,000 samples (mulberry32, public domain).
    let state = 20260306;
    const random = () => {
      state = (state + 0x6d2b79f5) | 0;
      let t = Math.imul(state ^ (state >>> 15), 1 | state);
      t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
      return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
    };
    // Most buy nothing, and some a lot: what money looks like.
    const sample = (n: number, buys: number) => {
      const values = Array.from({ length: n }, () => (random() < buys ? Math.round(1000 + 6000 * random() ** 3) : 0));
      return { n, sum: values.reduce((a, b) => a + b, 0), squares: values.reduce((a, b) => a + b * b, 0) };
    };
    const mean = 1000 + 6000 / 4;
    let held = 0;
    for (let i = 0; i < 2000; i++) {
      const { low, high } = meanDifference(sample(600, 0.2), sample(150, 0.12));
      if (low <= 0.08 * mean && 0.08 * mean <= high) held++;
    }
    expect(held / 2000).toBeGreaterThan(0.93);
    expect(held / 2000).toBeLessThan(0.97);
  });
});

describe('what a sequence added', () => {
  const group = (people: number, orders: number, money = orders * 3000): Group => ({
    people,
    orders,
    money,
    squares: orders === 0 ? 0 : (money * money) / orders,
  });
  test('is money for each person, with its range', () => {
    const { perPerson, why } = added(group(900, 270), group(100, 10));
    expect(why).toBeNull();
    // 270 × 30 € / 900 − 10 × 30 € / 100 = 9 € − 3 €.
    expect(perPerson?.mean).toBeCloseTo(600, 9);
    expect([perPerson && perPerson.low > 0, perPerson && perPerson.high < 1200]).toEqual([true, true]);
  });
  test.each([
    [group(500, 40), group(0, 0), 'nobody-held-out'],
    [group(500, 40), group(29, 8), 'few-people'],
    [group(500, 4), group(50, 4), 'few-orders'],
  ] as const)('says so where there is too little to say', (through, out, why) => {
    expect(added(through, out)).toEqual({ perPerson: null, why });
  });
});

test('people are followed up a sequence: what stands between two emails is counted to the gap between them', () => {
  const step = (id: string, more: object) => ({ id, on: true, note: '', ...more }) as unknown as Step;
  const email = (id: string) => step(id, { kind: 'email', name: id });
  const sequence: Pick<Sequence, 'steps'> = {
    steps: [
      step('w1', { kind: 'wait' }),
      email('one'),
      step('w2', { kind: 'wait' }),
      step('fork', {
        kind: 'branch',
        arms: [
          { id: 'yes', steps: [email('two'), step('w3', { kind: 'wait' })] },
          { id: 'no', steps: [step('w4', { kind: 'wait' })] },
        ],
      }),
      email('three'),
    ],
  };
  const counted = (ended: Record<string, number>, kept: Record<string, number> = {}) => ({ ended, kept });
  const { start, emails } = climb(
    sequence,
    {
      w1: counted({ 'mail-stopped unsubscribed': 1 }),
      one: counted({ 'mail-stopped unsubscribed': 2 }, { 'email-skipped': 3 }),
      w2: counted({ 'goal-reached': 4 }),
      two: counted({ 'goal-reached': 5 }),
      w4: counted({ 'goal-reached': 6 }),
      three: counted({ 'reached-end': 7 }),
    },
    { w1: 10, one: 11, w2: 12, w3: 13, w4: 14 },
  );
  const of = (n: number, ...steps: string[]) => ({ n, steps });
  expect(start).toEqual({
    waiting: of(21, 'w1', 'one'),
    ended: { 'mail-stopped unsubscribed': of(3, 'w1', 'one') },
    kept: { 'email-skipped': of(3, 'one') },
  });
  expect(emails.map((e) => [e.step.id, e.after])).toEqual([
    ['one', { waiting: of(12, 'w2'), ended: { 'goal-reached': of(9, 'w2', 'two') }, kept: {} }],
    ['two', { waiting: of(27, 'w3', 'w4'), ended: { 'goal-reached': of(6, 'w4') }, kept: {} }],
    ['three', { waiting: of(0), ended: { 'reached-end': of(7, 'three') }, kept: {} }],
  ]);
});
