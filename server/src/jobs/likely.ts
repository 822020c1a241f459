import { armsOf, shareOf, type Step } from '@ascenso/core';
import type { Executor } from '../db/connect.ts';
import { ARMS_TAKEN } from '../db/numbers.ts';
import { readTallies } from '../db/tallies.ts';

/** Fewer people than this at a fork say nothing about those to come. */
const ENOUGH = 20;

/** How many took each arm so far, by arm id. */
export async function armCounts(db: Executor, ws: string): Promise<Map<string, number>> {
  const out = new Map<string, number>();
  for (const { detail, n } of await readTallies(db, ws, { whats: ARMS_TAKEN }))
    out.set(detail, (out.get(detail) ?? 0) + n);
  return out;
}

/** Shares of the arms of a fork, as people took them so far; null where too few have come by. */
export function sharesOf(fork: Step, counts: ReadonlyMap<string, number>): number[] | null {
  const taken = armsOf(fork).map((a) => counts.get(a.id) ?? 0);
  const all = taken.reduce((a, b) => a + b, 0);
  return fork.kind !== 'split' && all >= ENOUGH ? taken.map((n) => n / all) : null;
}

/** The arm that a person is taken to go: by lot, as others before them; null leaves it to what is known. */
export function likelyArm(fork: Step, person: string, counts: ReadonlyMap<string, number>): string | undefined {
  const shares = sharesOf(fork, counts);
  let at = shareOf(`${fork.id}/${person}/forecast`);
  return shares ? armsOf(fork).find((_, i) => (at -= shares[i] ?? 0) < 0)?.id : undefined;
}
