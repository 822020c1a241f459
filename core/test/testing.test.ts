import { describe, expect, test } from 'vitest';
import { ALPHA, judge, verdictOf } from '../src/index.ts';
import { fisherExact } from './fisher.ts';

// Tests of arms against each other: what is said of them, and that looking often does no harm.

/** Uniform numbers, the same at every run (mulberry32, public domain). */
function randomFrom(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

interface Arm {
  n: number;
  sum: number;
  squares: number;
  did: number;
}
const share = (sum: number, n: number): Arm => ({ n, sum, squares: sum, did: sum });
const nobody = (): Arm => ({ n: 0, sum: 0, squares: 0, did: 0 });
const see = (arm: Arm, value: number) => {
  arm.n++;
  arm.sum += value;
  arm.squares += value * value;
  if (value > 0) arm.did++;
};

/** log of n! by summing, once for all. */
const LOGS = [0];
const logFactorial = (n: number): number => {
  for (let i = LOGS.length; i <= n; i++) LOGS.push((LOGS[i - 1] ?? 0) + Math.log(i));
  return LOGS[n] ?? 0;
};
const logBeta = (a: number, b: number) => logFactorial(a - 1) + logFactorial(b - 1) - logFactorial(a + b - 1);

/**
 * The chance that the second of two shares is the greater, in closed form: E. Miller, Formulas for Bayesian A/B Testing
 * (evanmiller.org, 2014), equation for whole-numbered beta distributions.
 */
function closedForm([sa, na]: [number, number], [sb, nb]: [number, number]): number {
  const [aa, ba, ab, bb] = [sa + 1, na - sa + 1, sb + 1, nb - sb + 1];
  let total = 0;
  for (let i = 0; i < ab; i++)
    total += Math.exp(logBeta(aa + i, bb + ba) - Math.log(bb + i) - logBeta(1 + i, bb) - logBeta(aa, ba));
  return total;
}

describe('the chance to be better', () => {
  test.each([
    [
      [28, 176],
      [39, 176],
    ],
    [
      [5, 20],
      [6, 22],
    ],
    [
      [200, 1000],
      [230, 1000],
    ],
    [
      [0, 30],
      [3, 30],
    ],
  ] as [[number, number], [number, number]][])('of %j and %j is what the closed form gives', (a, b) => {
    const { arms } = judge([share(...a), share(...b)], 'share');
    expect(arms[1]?.best).toBeCloseTo(closedForm(a, b), 3);
    expect((arms[0]?.best ?? 0) + (arms[1]?.best ?? 0)).toBeCloseTo(1, 3);
  });

  test('and what choosing an arm gives away is what many draws give', () => {
    const random = randomFrom(7);
    // A beta distribution of whole numbers is the k-th smallest of uniform ones.
    const beta = (s: number, n: number) => Array.from({ length: n + 1 }, random).sort((x, y) => x - y)[s] as number;
    const of: [number, number][] = [
      [12, 60],
      [15, 60],
      [9, 60],
    ];
    const lost = [0, 0, 0];
    const DRAWS = 20_000;
    for (let i = 0; i < DRAWS; i++) {
      const drawn = of.map(([s, n]) => beta(s, n));
      const most = Math.max(...drawn);
      drawn.forEach((x, k) => (lost[k] = (lost[k] ?? 0) + (most - x) / DRAWS));
    }
    const { arms } = judge(
      of.map(([s, n]) => share(s, n)),
      'share',
    );
    arms.forEach((a, k) => expect(Math.abs(a.loss - (lost[k] ?? 0))).toBeLessThan(0.002));
  });
});

describe('looking often', () => {
  /** How often a test is called settled that is looked at again and again. */
  function called(runs: number, arms: (() => number)[], settled = (a: Arm[]) => verdictOf(a).settled) {
    let n = 0;
    for (let run = 0; run < runs; run++) {
      const seen = arms.map(nobody);
      for (let look = 0; look < 20; look++) {
        for (let i = 0; i < 100; i++) arms.forEach((draw, k) => see(seen[k] as Arm, draw()));
        if (!settled(seen)) continue;
        n++;
        break;
      }
    }
    return n / runs;
  }
  const clicks = (random: () => number, p: number) => () => Number(random() < p);
  /** Most order nothing, some a little, few a lot. */
  const spends = (random: () => number, p: number) => () => (random() < p ? 1000 + 9000 * random() ** 3 : 0);

  test.each([
    ['clicks of 20%', (r: () => number) => clicks(r, 0.2)],
    ['clicks of 3%', (r: () => number) => clicks(r, 0.03)],
    ['money of 5% who order', (r: () => number) => spends(r, 0.05)],
  ])(
    'does no harm: of 10,000 tests of two arms that are the same (%s), fewer than one in twenty is called settled',
    (_, draw) => {
      const random = randomFrom(20261127);
      const rate = called(10_000, [draw(random), draw(random)]);
      expect(rate).toBeLessThan(ALPHA);
      // One that never settles would pass as well.
      expect(rate).toBeGreaterThan(0);
    },
  );

  test('with a range for one look it would: the check above can fail', () => {
    const random = randomFrom(20261127);
    const naive = (seen: Arm[]) => {
      const [a, b] = seen as [Arm, Arm];
      const p = (a.sum + b.sum) / (a.n + b.n);
      return Math.abs(a.sum / a.n - b.sum / b.n) > 1.96 * Math.sqrt(p * (1 - p) * (1 / a.n + 1 / b.n));
    };
    expect(called(1_000, [clicks(random, 0.2), clicks(random, 0.2)], naive)).toBeGreaterThan(0.15);
  });

  test('and a real difference is found: by the verdict itself, of two arms and of three', () => {
    const random = randomFrom(5);
    expect(called(200, [clicks(random, 0.2), clicks(random, 0.3)])).toBeGreaterThan(0.95);
    expect(called(2_000, [clicks(random, 0.2), clicks(random, 0.2), clicks(random, 0.2)])).toBeLessThan(ALPHA);
    expect(called(200, [clicks(random, 0.2), clicks(random, 0.32), clicks(random, 0.2)])).toBeGreaterThan(0.9);
  });
});

describe('against Fisher’s exact test', () => {
  // R. A. Fisher, The Design of Experiments (1935), chapter II, the lady and her eight cups: of 70 orders one has all four
  // right, and 16 have three; so 34/70 for three right or worse either way, 2/70 for all. The third by hand, from binomial
  // coefficients: (C(12,1) C(12,9) + C(12,0) C(12,10)) · 2 / C(24,10) = 5412 / 1961256.
  test.each([
    [3, 4, 1, 4, 17 / 35],
    [4, 4, 0, 4, 1 / 35],
    [1, 12, 9, 12, 5412 / 1_961_256],
  ])('the judge itself: %i of %i against %i of %i', (a, m, b, n, p) => {
    expect(fisherExact(a, m, b, n)).toBeCloseTo(p, 4);
  });

  test('what is called settled is what the exact test would not put down to chance at one look, either', () => {
    const random = randomFrom(11);
    let settled = 0;
    for (let i = 0; i < 3_000; i++) {
      const [m, n] = [100 + Math.floor(random() * 400), 100 + Math.floor(random() * 400)];
      const [a, b] = [Math.floor(random() ** 2 * m), Math.floor(random() ** 2 * n)];
      if (!judge([share(a, m), share(b, n)], 'share').settled) continue;
      settled++;
      expect(fisherExact(a, m, b, n)).toBeLessThan(ALPHA);
    }
    expect(settled).toBeGreaterThan(500);
  });
});

describe('what is said', () => {
  test('of a test that is not settled: how many more people it takes, and that they would', () => {
    const said = judge([share(60, 300), share(81, 300)], 'share');
    expect(said).toMatchObject({ leader: 1, settled: false, few: false });
    const times = 1 + (said.needed ?? 0) / 600;
    const more = (s: number) => share(Math.round(s * times * 1.03), Math.round(300 * times * 1.03));
    expect(judge([more(60), more(81)], 'share').settled).toBe(true);
    const fewer = (s: number) => share(Math.round(s * times * 0.95), Math.round(300 * times * 0.95));
    expect(judge([fewer(60), fewer(81)], 'share').settled).toBe(false);
  });
  test('of too few people: nothing is settled, however far apart', () => {
    expect(judge([share(0, 99), share(99, 99)], 'share')).toMatchObject({ settled: false, few: true });
    expect(judge([share(0, 0), share(0, 0)], 'share')).toMatchObject({ settled: false, few: true, leader: 0 });
    expect(judge([share(0, 500), share(0, 500)], 'share')).toMatchObject({ settled: false, few: true, needed: null });
  });
  test('of a difference that is too small to tell: that no number of people is enough', () => {
    expect(judge([share(2000, 10_000), share(2001, 10_000)], 'share').needed).toBeNull();
  });
});
