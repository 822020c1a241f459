// Ranges that hold the true value in 95 of 100 cases.

/** Two-sided 95% point of the normal distribution. */
const Z = 1.959963984540054;

export interface Range {
  low: number;
  high: number;
}

/** Roots of Wilson's score equation for `part` of `of`. `of` is above 0. */
export function wilson(part: number, of: number): Range {
  const share = part / of;
  const z2 = Z * Z;
  const middle = 2 * part + z2;
  const reach = Z * Math.sqrt(z2 + 4 * part * (1 - share));
  const whole = 2 * (of + z2);
  // Rounding would leave what is none or all a hair beside it.
  return {
    low: part === 0 ? 0 : (middle - reach) / whole,
    high: part === of ? 1 : (middle + reach) / whole,
  };
}

/**
 * Range of the difference of two shares, the first less the second, from the Wilson ranges of both: Newcombe, Statistics in
 * Medicine 17 (1998), 873–890, method 10. Both are of more than 0.
 */
export function newcombe(a: { part: number; of: number }, b: { part: number; of: number }): Range {
  const [p, q] = [a.part / a.of, b.part / b.of];
  const [ra, rb] = [wilson(a.part, a.of), wilson(b.part, b.of)];
  return {
    low: p - q - Math.hypot(p - ra.low, rb.high - q),
    high: p - q + Math.hypot(ra.high - p, q - rb.low),
  };
}

/** So many values by their sum and the sum of their squares. */
export interface Sample {
  n: number;
  sum: number;
  squares: number;
}

/** Unbiased variance of one value of a sample of two or more. */
export const varianceOf = ({ n, sum, squares }: Sample): number => Math.max(0, (squares - (sum * sum) / n) / (n - 1));

/**
 * Difference of two means, the first less the second, with its range by the normal distribution and a variance for each
 * (Welch). For samples that are large enough: see `added`.
 */
export function meanDifference(a: Sample, b: Sample): Range & { mean: number } {
  const mean = a.sum / a.n - b.sum / b.n;
  const reach = Z * Math.sqrt(varianceOf(a) / a.n + varianceOf(b) / b.n);
  return { mean, low: mean - reach, high: mean + reach };
}
