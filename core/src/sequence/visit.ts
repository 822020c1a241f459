import type { Discount } from '../offer/index.ts';
import type { Asking, Facts, PersonFacts } from '../audience/index.ts';
import { nextInWindow, zoneOf, type Zone } from '../time/index.ts';
import type { EmailStep, Sequence, Step } from './schema.ts';
import type { TraceEntry } from './trace.ts';
import { indexSteps, nextStep, type Visited } from './tree.ts';

/** How a passage ended; undone, it counts as if it had never been. */
export type Ending = 'goal' | 'end' | 'left' | 'undone';

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
  /** Id of the event that started it, where one did: it never counts towards the goal. */
  cause?: string;
  /** When it ended: of a goal, when that was reached, however late we heard. */
  endedAt?: number;
  /** What ended it: its goal, the end of its steps, or anything else. */
  ending?: Ending;
  /** Offer whose codes have run out: the email waits for new ones. */
  awaits?: string;
}

/** What the world must do. The key (visit, step, kind) makes each happen once. */
export type Effect =
  | { kind: 'send'; step: string; dueAt: number }
  /** The offer of an email is given: closes then (null for never), with a code of their own, the same as others, or none. */
  | {
      kind: 'grant';
      step: string;
      offer: string;
      at: number;
      closes: number | null;
      code: 'own' | { same: string } | null;
      /** What is promised from then on, whatever the offer gives later. */
      discount: Discount;
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
  /** The moment of the schedule (epoch ms): waits, windows and deadlines are reckoned from it. */
  now: number;
  /** The present (epoch ms): goal, permission, conditions and the state of offers are asked at it. */
  clock: number;
  /** True once a step has changed what is known of the person. */
  changed: boolean;
  effects: Effect[];
  trace: TraceEntry[];
  asking: Asking;
  facts: Facts;
  run: Runnable;
}

/** A person with what one effect changes about them. What it does to the world outside changes nothing here. */
/** Whoever is on a list already stays on it as they came; whoever was not joins now, by a sequence. */
function onList(person: PersonFacts, { list, state, at }: Extract<Effect, { kind: 'list' }>): PersonFacts {
  const { [list]: before, ...others } = person.joined ?? {};
  const stays = state === 'confirmed' && person.lists[list] === 'confirmed';
  const now =
    state === 'confirmed' ? { [list]: stays && before ? before : { at, how: stays ? null : 'sequence' } } : {};
  return {
    ...person,
    lists: { ...person.lists, [list]: state },
    joined: { ...others, ...now } as PersonFacts['joined'] & {},
  };
}

export function personWith(person: PersonFacts, effect: Effect): PersonFacts {
  switch (effect.kind) {
    case 'list':
      return onList(person, effect);
    case 'set':
      return { ...person, attributes: { ...person.attributes, [effect.key]: effect.value } };
    case 'points':
      return { ...person, points: person.points + effect.points };
    case 'tag': {
      const others = person.tags.filter((t) => t !== effect.tag);
      return { ...person, tags: effect.add ? [...others, effect.tag] : others };
    }
    case 'send':
    case 'grant':
    case 'start':
    case 'stop':
    case 'tell':
    case 'call':
      return person;
  }
}

/** Asks the world for something; what it changes about the person is known from here on. */
export function cause(w: Walk, effect: Effect): void {
  w.effects.push(effect);
  const person = personWith(w.facts.person, effect);
  if (person === w.facts.person) return;
  know(w, { ...w.facts, person });
}

/** From here on these are the facts, for every question that is asked. */
export function know(w: Walk, facts: Facts): void {
  w.facts = facts;
  w.asking.facts = facts;
  w.changed = true;
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

/** The email that somebody at a step gets next, or null where that depends on what is known of them, or there is none. */
export function nextEmailStep(run: Runnable, step: string): EmailStep | null {
  for (let at: Step | null | undefined = run.steps.get(step)?.step; at;) {
    if (at.kind === 'email') return at;
    const visited = run.steps.get(at.id);
    if (!visited || 'arms' in at || at.kind === 'leave') return null;
    at = nextStep(visited);
  }
  return null;
}

/** What stands between a place and the email behind it without taking time or choosing a way. */
const takesNoTime = ({ step }: Visited): boolean => !step.on || step.kind === 'action' || step.kind === 'email';

/**
 * When the next email of a visit goes (epoch ms), as far as its place says: it stands at the email, or at a wait that the email
 * follows, and its window is asked. Null where that depends on what happens first.
 */
export function nextEmailAt(run: Runnable, visit: Visit, zone: Zone): number | null {
  const standing = visit.step === null ? undefined : run.steps.get(visit.step);
  if (!standing || (!takesNoTime(standing) && standing.step.kind !== 'wait')) return null;
  let at: Visited | undefined = standing;
  // The length of a wait is in its due moment; whoever stands at a second one waits longer than that.
  if (standing.step.kind === 'wait') at = behind(run, standing);
  for (; at && takesNoTime(at); at = behind(run, at)) {
    const { step } = at;
    if (step.kind !== 'email' || !step.on || visit.stepTimes[step.id] !== undefined) continue;
    if (!step.window || (visit.held && at === standing)) return visit.dueAt;
    return nextInWindow(step.window.zone ? zoneOf(step.window.zone) : zone, step.window, visit.dueAt);
  }
  return null;
}

const behind = (run: Runnable, visited: Visited): Visited | undefined => {
  const next = nextStep(visited);
  return next ? run.steps.get(next.id) : undefined;
};
