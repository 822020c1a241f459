import type { Asking, Facts } from '../audience/index.ts';
import type { Sequence, Step } from './schema.ts';
import type { TraceEntry } from './trace.ts';
import { indexSteps, nextStep, type Visited } from './tree.ts';

/** One person's passage through one sequence. Instants are epoch ms. */
export interface Visit {
  id: string;
  sequence: string;
  version: number;
  /** Step where the visit stands, or null when it has ended. */
  step: string | null;
  status: 'active' | 'done';
  enteredAt: number;
  arrivedAt: number;
  dueAt: number;
  /** True while an email is held for its window: the wait for it has been reckoned. */
  held: boolean;
  /** Decided moments of steps passed, by step id. */
  stepTimes: Record<string, number>;
  /** True for somebody whose next email was too late when the sequence was resumed: that one is left out. */
  tooLate: boolean;
  /** Payload of the event that started it. */
  entry: Record<string, unknown>;
  /** Offer whose codes have run out: the email waits for new ones. */
  awaits?: string;
}

/** What the world must do. The key (visit, step, kind) makes each happen once. */
export type Effect =
  | { kind: 'send'; step: string; dueAt: number }
  /** The offer of an email is given: closes then (null for never), with a code of their own, the same as others, or none. */
  | {
      kind: 'open';
      step: string;
      offer: string;
      at: number;
      closes: number | null;
      code: 'own' | { same: string } | null;
    }
  | { kind: 'tag'; step: string; tag: string; add: boolean }
  | { kind: 'list'; step: string; list: string; state: 'confirmed' | 'left'; at: number }
  | { kind: 'set'; step: string; key: string; value: string | number | boolean | null }
  | { kind: 'points'; step: string; points: number }
  | { kind: 'start'; step: string; sequence: string; at: number }
  | { kind: 'stop'; step: string; sequence: string; at: number }
  | { kind: 'tell'; step: string; to: string; text: string }
  | { kind: 'call'; step: string; url: string };

/** A version made ready for many calls of `advance`. */
export interface Runnable {
  sequence: Sequence;
  steps: Map<string, Visited>;
  /** Takes an arm at a fork whatever is known: for a calendar of every way. Undefined leaves it to the facts. */
  choose?: (fork: Step) => string | undefined;
}

export function prepare(sequence: Sequence): Runnable {
  return { sequence, steps: indexSteps(sequence) };
}

/** Either the visit stops here until a moment (epoch ms), or goes on to the next step. */
export type Outcome = { stop: number } | { next: Step | null };

/** One call of `advance` under way. */
export interface Walk {
  visit: Visit;
  now: number;
  effects: Effect[];
  trace: TraceEntry[];
  asking: Asking;
  facts: Facts;
  run: Runnable;
}

export function tell(w: Walk, step: string | null, code: TraceEntry['code'], data: TraceEntry['data'] = {}): void {
  w.trace.push({ at: w.now, step, code, data });
}

/** A new visit, standing before the first step and due at once. */
export function enter(
  id: string,
  sequence: string,
  version: number,
  run: Runnable,
  at: number,
  entry: Record<string, unknown>,
): Visit {
  const first = run.sequence.steps[0];
  return {
    id,
    sequence,
    version,
    step: first?.id ?? null,
    status: first ? 'active' : 'done',
    enteredAt: at,
    arrivedAt: at,
    dueAt: at,
    held: false,
    tooLate: false,
    stepTimes: {},
    entry,
  };
}

/**
 * When the next email of a visit is due, as far as its place says: it stands at the email, or at a wait that the email
 * follows. Null where that depends on what happens first.
 */
export function nextEmailAt(run: Runnable, visit: Visit): number | null {
  const standing = visit.step === null ? undefined : run.steps.get(visit.step);
  if (!standing) return null;
  if (standing.step.kind === 'email') return visit.dueAt;
  return standing.step.kind === 'wait' && nextStep(standing)?.kind === 'email' ? visit.dueAt : null;
}
