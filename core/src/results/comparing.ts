import { alwaysValid } from './always-valid.ts';
import { chances, meanBelief, shareBelief } from './chances.ts';
import { varianceOf, wilson, type Range, type Sample } from './ranges.ts';

/** What one arm of a test did: people, and the sum and squares of what each did (for a share: 0 or 1 each). */
export type ArmSample = Sample;

/** One arm of a test, judged. */
export interface JudgedArm {
  mean: number;
  /** Holds the true value in 95 of 100 cases, looked at once. */
  range: Range;
  /** How likely it is the best, and what choosing it would give away on average. */
  best: number;
  loss: number;
}

export interface Judged {
  arms: JudgedArm[];
  /** The arm that leads. */
  leader: number;
  /** The leader is better than every other, and stays so however often one looks. */
  settled: boolean;
  /** How much better it is than the one behind it: holds at every look. */
  ahead: Range;
  /** People still needed, over all arms, should the difference stay as it is; null where it is too small to tell. */
  needed: number | null;
  /** Too little was seen to say anything. */
  few: boolean;
}

/** How often a test of arms that are the same may be called settled. */
export const ALPHA = 0.05;
/** Differences that one expects, in standard deviations of one person: of 20% who click, four points up or down. */
const EXPECTED = 0.1;
/** People in each arm, and of them who did anything, from which on the error of a mean is near enough to normal: tried out in the tests. */
export const FEW = { people: 100, did: 20 };
/** More people than this is no answer. */
const MOST = 1_000_000;
const Z = 1.959963984540054;

const meanOf = (s: Sample) => s.sum / s.n;

/** How much the one leads by over the other, as it holds at every look. `times` as many people are assumed as were seen. */
function lead(a: Sample, b: Sample, alpha: number, times = 1): Range {
  const variance = (varianceOf(a) / a.n + varianceOf(b) / b.n) / times;
  const person = Math.sqrt((varianceOf(a) + varianceOf(b)) / 2);
  return alwaysValid(meanOf(a) - meanOf(b), variance, EXPECTED * person, alpha);
}

/** How many times as many people would settle it, by halving; null where more than MOST would be needed. */
function timesNeeded(a: Sample, b: Sample, alpha: number): number | null {
  const people = a.n + b.n;
  let [low, high] = [1, MOST / people];
  if (lead(a, b, alpha, high).low <= 0) return null;
  while (high / low > 1.01) {
    const middle = Math.sqrt(low * high);
    if (lead(a, b, alpha, middle).low > 0) high = middle;
    else low = middle;
  }
  return high;
}

/**
 * Judges a test of two arms or more: of shares (each did it or not), or of means of what is never below nothing, such as
 * money. `did` counts who did anything.
 */
export function judge(arms: readonly (Sample & { did: number })[], kind: 'share' | 'mean'): Judged {
  const few = arms.some((a) => a.n < FEW.people) || arms.reduce((sum, a) => sum + a.did, 0) < FEW.did * arms.length;
  const sd = (a: Sample) => (a.n < 2 ? 0 : Math.sqrt(varianceOf(a) / a.n));
  const means = arms.map((a) => (a.n === 0 ? 0 : meanOf(a)));
  const order = means.map((_, i) => i).sort((a, b) => (means[b] ?? 0) - (means[a] ?? 0));
  const [leader = 0, second = 0] = order;
  const [first, behind] = [arms[leader], arms[second]];
  const seen = arms.every((a) => a.n >= 2);
  const ends =
    kind === 'share' ? [0, 1] : arms.flatMap((a, i) => [(means[i] ?? 0) - 8 * sd(a), (means[i] ?? 0) + 8 * sd(a)]);
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const chance = seen && high > low ? chances(arms.map(kind === 'share' ? shareBelief : meanBelief), low, high) : null;
  // Each pair is a test of its own: together they err no more often than one.
  const alpha = ALPHA / ((arms.length * (arms.length - 1)) / 2);
  const leads = seen && first ? arms.map((a, i) => (i === leader ? null : lead(first, a, alpha))) : [];
  const settled = !few && leads.every((l) => l === null || l.low > 0);
  const times = !seen || settled || !first || !behind ? null : timesNeeded(first, behind, alpha);
  return {
    arms: arms.map((a, i) => ({
      mean: means[i] ?? 0,
      range:
        kind === 'share'
          ? a.n === 0
            ? { low: 0, high: 1 }
            : wilson(a.sum, a.n)
          : { low: Math.max(0, (means[i] ?? 0) - Z * sd(a)), high: (means[i] ?? 0) + Z * sd(a) },
      best: chance?.[i]?.best ?? 1 / arms.length,
      loss: chance?.[i]?.loss ?? 0,
    })),
    leader,
    settled,
    ahead: leads[second] ?? { low: 0, high: 0 },
    needed: times === null ? null : Math.ceil((times - 1) * arms.reduce((sum, a) => sum + a.n, 0)),
    few,
  };
}
