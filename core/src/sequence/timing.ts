import { DAY, roughLength } from '../time/index.ts';
import type { Sequence, Step } from './schema.ts';
import { waitLength } from './waiting.ts';

/** Elapsed time at which a step is reached, shortest and longest way, ms since entry. */
export interface Reach {
  from: number;
  to: number;
}

/** How long a wait for a moment of the calendar can be, ms. How far a date lies is not known: it is told as a year. */
const LONGEST = { weekday: 7 * DAY, 'day-of-year': 366 * DAY, date: 366 * DAY };

/** Days as the ruler says them: "Day 0", "Day 3 to 6". */
export function dayWords(reach: Reach): string {
  const from = Math.floor(reach.from / DAY);
  const to = Math.floor(reach.to / DAY);
  return from === to ? `Day ${from}` : `Day ${from} to ${to}`;
}

/**
 * When each step is reached by elapsed time alone, windows left out; null for a step that nobody can reach. Arms of
 * different length give a range after they come back together.
 */
export function reaches(sequence: Pick<Sequence, 'steps'>): Map<string, Reach | null> {
  const out = new Map<string, Reach | null>();
  const list = (steps: readonly Step[], start: Reach | null): Reach | null => {
    let at = start;
    for (const step of steps) {
      out.set(step.id, at);
      if ('arms' in step) {
        const begin: (Reach | null)[] = step.arms.map(() => at);
        if (step.kind === 'until' && at) {
          const length = roughLength(step.amount, step.unit);
          begin[0] = { from: at.from, to: at.to + length };
          begin[1] = { from: at.from + length, to: at.to + length };
        }
        const ends = step.arms
          .map((a, i) => list(a.steps, step.on ? (begin[i] ?? null) : null))
          .filter((r) => r !== null);
        if (step.on)
          at =
            ends.length === 0
              ? null
              : { from: Math.min(...ends.map((r) => r.from)), to: Math.max(...ends.map((r) => r.to)) };
      } else if (step.on && step.kind === 'leave') at = null;
      else if (step.on && step.kind === 'wait' && step.at && at)
        at = { from: at.from, to: at.to + LONGEST[step.at.kind] };
      else if (step.on && step.kind === 'wait' && at) {
        const length = waitLength(step);
        at = { from: at.from + length, to: at.to + length };
      }
    }
    return at;
  };
  list(sequence.steps, { from: 0, to: 0 });
  return out;
}
