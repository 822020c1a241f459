/**
 * Where random tests begin: anew in each run, so that they come to see everything; SEED=n repeats one, and tests say theirs.
 */
export const SEED = Number(process.env.SEED ?? Math.floor(Math.random() * 1_000_000));

/** Random numbers from a seed (mulberry32, public domain): the same seed, the same history. */
export class Chance {
  #state: number;
  constructor(seed: number) {
    this.#state = seed >>> 0;
  }

  /** A number in [0, 1). */
  next(): number {
    this.#state = (this.#state + 0x6d2b79f5) >>> 0;
    let t = this.#state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  }

  /** A whole number in [from, to]. */
  whole(from: number, to: number): number {
    return from + Math.floor(this.next() * (to - from + 1));
  }

  is(probability: number): boolean {
    return this.next() < probability;
  }

  pick<T>(list: readonly T[]): T {
    return list[this.whole(0, list.length - 1)] as T;
  }
}
