// @ts-expect-error: the library brings no types of its own.
import untyped from 'jstat';
import { varianceOf, type Sample } from './ranges.ts';

interface Distribution<P extends number[]> {
  /** The share that lies below x. */
  cdf: (x: number, ...parameters: P) => number;
}
const jstat = untyped as {
  beta: Distribution<[alpha: number, beta: number]>;
  normal: Distribution<[mean: number, sd: number]>;
};

/** What a value is believed to be after what was seen: the share of it that lies below a number. */
export type Belief = (x: number) => number;

/** Of a share, beginning with every share as likely as any other (Beta(1, 1)). */
export const shareBelief =
  ({ n, sum }: Sample): Belief =>
  (x) =>
    x <= 0 ? 0 : x >= 1 ? 1 : jstat.beta.cdf(x, sum + 1, n - sum + 1);

/** Of a mean, normal around what was seen: for samples that are large enough. */
export const meanBelief = (s: Sample): Belief => {
  const sd = Math.sqrt(varianceOf(s) / s.n);
  return (x) => (sd === 0 ? Number(x >= s.sum / s.n) : jstat.normal.cdf(x, s.sum / s.n, sd));
};

/** Points of the grid on which beliefs are held against each other. */
const GRID = 2000;

/** How one of several compares. */
export interface Chance {
  /** How likely it is the best. */
  best: number;
  /** What one gives away on average by choosing it, should another be better; in the unit of the values. */
  loss: number;
}

/** How several values compare, by what is believed of each. All of it lies between `low` and `high`. */
export function chances(beliefs: readonly Belief[], low: number, high: number): Chance[] {
  const step = (high - low) / GRID;
  const cdf = beliefs.map((below) => Array.from({ length: GRID + 1 }, (_, i) => below(low + i * step)));
  const at = (k: number, i: number) => cdf[k]?.[i] ?? 0;
  const mean = beliefs.map(() => high);
  const best = beliefs.map(() => 0);
  let most = high;
  for (let i = 0; i < GRID; i++) {
    const middle = beliefs.map((_, k) => (at(k, i) + at(k, i + 1)) / 2);
    const below = middle.reduce((product, m) => product * m, 1);
    most -= below * step;
    middle.forEach((m, k) => {
      mean[k] = (mean[k] ?? 0) - m * step;
      const others = middle.reduce((product, o, j) => (j === k ? product : product * o), 1);
      best[k] = (best[k] ?? 0) + (at(k, i + 1) - at(k, i)) * others;
    });
  }
  return beliefs.map((_, k) => ({ best: best[k] ?? 0, loss: Math.max(0, most - (mean[k] ?? 0)) }));
}
