import { armsOf, factsAbout, landings, type Runnable, type Step, type Way } from '@ascenso/core';

/** Moments that are remembered of a version; what is asked for each day anew is dropped with the rest of it. */
const MOST = 200;

const known = new WeakMap<Runnable, Map<string, Way[]>>();

/**
 * Where the emails of a version land for somebody in a zone who enters at a moment, on every way. A version never changes, so
 * what was reckoned once is remembered with it; only how many take each way is new at each look.
 */
export function waysThrough(run: Runnable, at: number, zone: string): readonly Way[] {
  const own = known.get(run) ?? new Map<string, Way[]>();
  known.set(run, own);
  const key = `${at} ${zone}`;
  const there = own.get(key);
  if (there) return there;
  if (own.size >= MOST) own.clear();
  const facts = factsAbout({ zone, zoneAssumed: true });
  const { ways } = landings({ sequence: run.sequence, at, entry: {}, facts });
  own.set(key, ways);
  return ways;
}

/** The share of people who take a way: the product of those of its arms, all arms of a fork alike where `shareOf` knows none. */
export const shareOfWay = (way: Way, run: Runnable, shareOf: (fork: Step, arm: string) => number | undefined): number =>
  way.arms.reduce((share, { fork, arm }) => {
    const step = run.steps.get(fork)?.step;
    return step ? share * (shareOf(step, arm) ?? 1 / armsOf(step).length) : share;
  }, 1);
