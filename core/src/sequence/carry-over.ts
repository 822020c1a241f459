import { zoneOf } from '../time/index.ts';

import type { Sequence, Step } from './schema.ts';
import type { TraceEntry } from './trace.ts';
import { findStep, nextStep, type Visited } from './tree.ts';
import type { Visit } from './visit.ts';
import { waitEnd } from './waiting.ts';

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** The nearest step that is still there: this one, else the next ones in the old order, out of the arms around it. */
function survivor(visited: Visited | undefined, after: Sequence): Step | null {
  let at = visited;
  while (at) {
    const kept = findStep(after, at.step.id);
    if (kept) return kept.step;
    const next = nextStep(at);
    if (!next) return null;
    const place: Visited | null = at;
    // The next one in the same list, or after the fork around it.
    let v: Visited | null = place;
    while (v && !v.siblings.includes(next)) v = v.parent;
    at = v
      ? {
          step: next,
          place: { arm: v.place.arm, index: v.siblings.indexOf(next) },
          siblings: v.siblings,
          parent: v.parent,
        }
      : undefined;
  }
  return null;
}

/**
 * Takes a person who is inside over to another version (architecture, 7). They stay on their step where it still
 * exists, else go to the nearest that does. A changed wait is reckoned anew from when they arrived, never before the
 * moment of publishing; what was put in behind them is not sent. `zone` is the person's, `now` epoch ms.
 */
export function carryOver(
  visit: Visit,
  before: Sequence,
  after: Sequence,
  version: number,
  zone: string,
  now: number,
): { visit: Visit; trace: TraceEntry } {
  const trace: TraceEntry = { at: now, step: visit.step, code: 'carried-over', data: { version } };
  const old = visit.step === null ? undefined : findStep(before, visit.step);
  const step = survivor(old, after);
  if (!step)
    return { visit: { ...visit, version, step: null, status: 'done', dueAt: 0, endedAt: now, ending: 'end' }, trace };
  if (step.id !== visit.step)
    return {
      visit: { ...visit, version, step: step.id, arrivedAt: now, dueAt: now, held: false },
      trace: { ...trace, step: step.id },
    };
  if (same(old?.step, step)) return { visit: { ...visit, version }, trace };
  if (step.kind === 'until' || (step.kind === 'wait' && !step.at)) {
    const until = waitEnd(zoneOf(zone), visit.arrivedAt, step);
    return { visit: { ...visit, version, dueAt: Math.max(until, now) }, trace };
  }
  // Anything else is asked anew, its window too.
  return { visit: { ...visit, version, dueAt: now, held: false }, trace };
}
