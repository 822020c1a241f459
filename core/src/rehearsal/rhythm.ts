import { factsAbout } from '../audience/index.ts';
import { emailSteps, reaches, walk, type Sequence } from '../sequence/index.ts';
import { landings } from './landings.ts';

/** A Monday morning, from which rhythms are reckoned. */
const MONDAY = Date.UTC(2026, 2, 2, 9);
/**
 * When each email goes out, ms after entry, by the quickest way: what a sequence looks like when it is small. Waits for a weekday or
 * for something to happen are followed from a Monday morning; an email that this does not reach is told by elapsed time.
 */
export function rhythmOf(sequence: Sequence): Map<string, number> {
  const reach = reaches(sequence);
  const out = new Map<string, number>();
  for (const step of emailSteps(sequence)) {
    const at = reach.get(step.id);
    if (at && step.on) out.set(step.id, at.from);
  }
  if (!walk(sequence).some(({ step }) => step.kind === 'wait' && step.at)) return out;
  const { ways } = landings({ sequence, at: MONDAY, entry: {}, facts: factsAbout() });
  const first = new Map<string, number>();
  for (const l of ways.flatMap((w) => w.landings))
    first.set(l.step, Math.min(first.get(l.step) ?? Infinity, l.at - MONDAY));
  for (const id of out.keys()) out.set(id, first.get(id) ?? out.get(id) ?? 0);
  return out;
}
