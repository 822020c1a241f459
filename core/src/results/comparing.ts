import { alwaysValid } from './always-valid.ts';
import { chances, meanBelief, shareBelief } from './chances.ts';
import { varianceOf, wilson, type Range, type Sample } from './ranges.ts';

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
/** Fewer people than this in an arm, and no arm is ahead at all: one of two who clicked says nothing (ours, no published source). */
export const LEAST_AHEAD = 20;
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

/** An arm as it was seen; `did` counts who did anything. */
export type SeenArm = Sample & { did: number };

interface Verdict {
  means: number[];
  leader: number;
  /** How much the leader is ahead of each other arm, null for itself; holds at every look. Empty where too little was seen. */
  leads: (Range | null)[];
  few: boolean;
  settled: boolean;
  /** How often each pair may err, so that together they err no more often than one. */
  alpha: number;
}

/** Which arm leads, and whether that is settled: the part of a judgement that looking often must not spoil. */
export function verdictOf(arms: readonly SeenArm[]): Verdict {
  const means = arms.map((a) => (a.n === 0 ? 0 : meanOf(a)));
  const leader = means.indexOf(Math.max(...means));
  const first = arms[leader];
  const alpha = ALPHA / ((arms.length * (arms.length - 1)) / 2);
  const few = arms.some((a) => a.n < FEW.people) || arms.reduce((sum, a) => sum + a.did, 0) < FEW.did * arms.length;
  const leads =
    first && arms.every((a) => a.n >= 2) ? arms.map((a, i) => (i === leader ? null : lead(first, a, alpha))) : [];
  return { means, leader, leads, few, settled: !few && leads.every((l) => l === null || l.low > 0), alpha };
}

/** Standard error of the mean of an arm. */
const errorOf = (a: Sample): number => (a.n < 2 ? 0 : Math.sqrt(varianceOf(a) / a.n));

/** The 95% range of one arm, looked at once. */
function rangeOf(a: Sample, mean: number, kind: 'share' | 'mean'): Range {
  if (kind === 'share') return a.n === 0 ? { low: 0, high: 1 } : wilson(a.sum, a.n);
  return { low: Math.max(0, mean - Z * errorOf(a)), high: mean + Z * errorOf(a) };
}

/** How the arms compare by what is believed of each; null where there is nothing to believe yet. */
function compared(arms: readonly SeenArm[], means: readonly number[], kind: 'share' | 'mean') {
  const ends =
    kind === 'share' ? [0, 1] : arms.flatMap((a, i) => [-8, 8].map((errors) => (means[i] ?? 0) + errors * errorOf(a)));
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  return high > low ? chances(arms.map(kind === 'share' ? shareBelief : meanBelief), low, high) : null;
}

/**
 * Judges a test of two arms or more: of shares (each did it or not), or of means of what is never below nothing, such as
 * money.
 */
export function judge(arms: readonly SeenArm[], kind: 'share' | 'mean'): Judged {
  const { means, leader, leads, few, settled, alpha } = verdictOf(arms);
  const seen = leads.length > 0;
  const chance = seen ? compared(arms, means, kind) : null;
  const [second = 0] = means
    .map((_, i) => i)
    .filter((i) => i !== leader)
    .sort((a, b) => (means[b] ?? 0) - (means[a] ?? 0));
  const [first, behind] = [arms[leader], arms[second]];
  const times = !seen || settled || !first || !behind ? null : timesNeeded(first, behind, alpha);
  return {
    arms: arms.map((a, i) => ({
      mean: means[i] ?? 0,
      range: rangeOf(a, means[i] ?? 0, kind),
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
