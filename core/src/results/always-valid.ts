import type { Range } from './ranges.ts';

/**
 * Range of a difference that holds at every look, however often one looks: in all but `alpha` of all tests the true
 * difference lies in every one of the ranges that are ever seen. The mixture range of a sequential probability ratio test
 * (H. Robbins, Annals of Mathematical Statistics 41 (1970), 1397–1409; R. Johari et al., Peeking at A/B Tests, KDD 2017),
 * for an estimate whose error is normal with a variance: that is so once each side has some hundred people (see `FEW`).
 * `spread` is the standard deviation of the differences that one expects, in the unit of the estimate: the range is always
 * right, and narrowest for differences of about that size.
 */
export function alwaysValid(difference: number, variance: number, spread: number, alpha: number): Range {
  if (variance === 0) return { low: difference, high: difference };
  const mixed = variance + spread * spread;
  const reach = Math.sqrt(
    ((variance * mixed) / (spread * spread)) * (Math.log(mixed / variance) + 2 * Math.log(1 / alpha)),
  );
  return { low: difference - reach, high: difference + reach };
}
