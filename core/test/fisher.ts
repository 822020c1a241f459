// @ts-expect-error: the library brings no types of its own.
import untyped from 'jstat';

// Fisher's exact test of two shares: what a table of four counts says by itself, whoever looked at it and however. The tails are
// the library's.
const jstat = untyped as {
  hypgeom: { pdf: (k: number, all: number, did: number, drawn: number) => number };
};

/** Two-sided p of `a` of `m` against `b` of `n`: all tables with the same sums that are no likelier than this one. */
export function fisherExact(a: number, m: number, b: number, n: number): number {
  const chance = (k: number) => jstat.hypgeom.pdf(k, m + n, a + b, m);
  const own = chance(a);
  let p = 0;
  for (let k = Math.max(0, a + b - n); k <= Math.min(m, a + b); k++) if (chance(k) <= own * (1 + 1e-9)) p += chance(k);
  return Math.min(1, p);
}
