import {
  type Asking,
  type Condition,
  evaluate,
  type Facts,
  heldSince,
  matchingEvent,
  nextTurn,
  type PersonFacts,
  readPath,
  shareOf,
} from '../audience/index.ts';
import { addPeriod, daysFromDate, MINUTE, nextDayOfYear, nextWeekday, zoneOf } from '../time/index.ts';
import { doAction } from './do-action.ts';
import { catchUp, doEmail, mailBar } from './do-email.ts';
import type { SplitArm, SplitStep, Step, UntilStep, WaitAt, WaitStep } from './schema.ts';
import type { TraceEntry } from './trace.ts';
import { nextStep, type Visited } from './tree.ts';
import { goesOnAt, testRunsFrom } from './triggers.ts';
import { waitEnd } from './waiting.ts';
import { tell, type Effect, type Ending, type Outcome, type Runnable, type Visit, type Walk } from './visit.ts';

export interface Advanced {
  visit: Visit;
  effects: Effect[];
  trace: TraceEntry[];
  /** The person with what the effects change about them. */
  person: PersonFacts;
}

/** A test that should have been decided by now is looked at again so soon, ms. */
const LOOK_AGAIN = 5 * MINUTE;

/** The moment of the calendar that a wait ends at, or null when there is none: the date is not known. */
function calendarMoment(w: Walk, at: WaitAt): number | null {
  const zone = zoneOf(w.facts.person.zone);
  if (at.kind === 'weekday') return nextWeekday(zone, w.visit.arrivedAt, at.days, at.minute);
  if (at.kind === 'day-of-year') return nextDayOfYear(zone, w.visit.arrivedAt, at.month, at.day, at.minute);
  const [group, ...path] = at.field.split('.');
  const value = readPath(group === 'event' ? w.visit.entry : w.facts.person.attributes, path.join('.'));
  return typeof value === 'string' ? daysFromDate(zone, value, at.days, at.minute) : null;
}

function doWaitAt(w: Walk, step: WaitStep, at: WaitAt, on: Step | null): Outcome {
  const until = calendarMoment(w, at);
  if (until !== null && until > w.now) {
    const { zone, zoneAssumed: assumed } = w.facts.person;
    w.trace.push({ at: w.now, step: step.id, code: 'wait-until', data: { until, zone, assumed } });
    return { stop: until };
  }
  // Reached in time, or long gone: a moment before they got here has passed.
  if (at.kind !== 'date' || (until !== null && until >= w.visit.arrivedAt)) return { next: on };
  w.trace.push({
    at: w.now,
    step: step.id,
    code: until === null ? 'date-missing' : 'date-passed',
    data: { leaves: at.passed === 'leave' },
  });
  return { next: at.passed === 'leave' ? null : on };
}

function doWait(w: Walk, step: WaitStep, on: Step | null): Outcome {
  if (step.at) return doWaitAt(w, step, step.at, on);
  const until = waitEnd(zoneOf(w.facts.person.zone), w.visit.arrivedAt, step);
  if (until > w.now) {
    w.trace.push({
      at: w.now,
      step: step.id,
      code: 'wait-begun',
      data: {
        until,
        amount: step.amount,
        unit: step.unit,
        ...(step.more ? { moreAmount: step.more.amount, moreUnit: step.more.unit } : {}),
        zone: w.facts.person.zone,
        assumed: w.facts.person.zoneAssumed,
      },
    });
    return { stop: until };
  }
  return { next: on };
}

function whyArm(condition: Condition, asking: Asking): Record<string, string | number | boolean> {
  if (condition.kind !== 'event') return {};
  const event = matchingEvent(condition, asking);
  return event ? { event: event.name, at: event.at } : {};
}

/** The arm of a split that a person takes: a share of the hash of step and person, so the same wherever it is asked. */
export function splitArm(step: SplitStep, person: string): SplitArm {
  const whole = step.arms.reduce((sum, a) => sum + a.weight, 0);
  let at = shareOf(`${step.id}/${person}`) * whole;
  for (const arm of step.arms) {
    at -= arm.weight;
    if (at < 0) return arm;
  }
  // Where rounding leaves a hair: never an arm that is closed.
  return (step.arms.findLast((a) => a.weight > 0) ?? step.arms.at(-1)) as SplitArm;
}

/** Until when somebody waits for a test to be decided; null where they go on: they take part, or nobody will decide. */
function waitsForTest(w: Walk, step: SplitStep): number | null {
  const { rule } = step;
  // Who takes part is a share of the hash of step and person.
  if (!rule?.after || shareOf(`${step.id}/first/${w.facts.person.id}`) * 100 < rule.first) return null;
  const test = w.facts.tests?.[step.id];
  // Decided for an arm that their version does not have.
  if (test && test.arm !== null) return null;
  const { sequence } = w.run;
  const from = testRunsFrom(sequence, w.visit.arrivedAt);
  const planned = addPeriod(zoneOf('UTC'), from, rule.after.amount, rule.after.unit);
  const until = goesOnAt(sequence, zoneOf(w.facts.person.zone), test?.decidesAt ?? planned);
  if (until > w.now) return until;
  return test ? w.clock + LOOK_AGAIN : null;
}

function doSplit(w: Walk, step: SplitStep, on: Step | null): Outcome {
  const chosen = w.run.choose?.(step);
  const known = w.facts.tests?.[step.id]?.arm;
  const decided = chosen === undefined ? step.arms.find((a) => a.id === known) : undefined;
  const until = chosen === undefined && !decided ? waitsForTest(w, step) : null;
  if (until !== null) {
    if (w.now === w.visit.arrivedAt)
      w.trace.push({
        at: w.now,
        step: step.id,
        code: 'split-waits',
        data: { until, zone: w.facts.person.zone, assumed: w.facts.person.zoneAssumed },
      });
    return { stop: until };
  }
  const arm = decided ?? step.arms.find((a) => a.id === chosen) ?? splitArm(step, w.facts.person.id);
  w.trace.push({
    at: w.now,
    step: step.id,
    code: 'split-taken',
    data: { arm: arm.id, ...(decided ? { decided: true } : {}) },
  });
  return { next: arm.steps[0] ?? on };
}

function doUntil(w: Walk, step: UntilStep, on: Step | null): Outcome {
  const [happened, not] = step.arms;
  const chosen = w.run.choose?.(step);
  if (chosen === undefined ? evaluate(step.condition, w.asking) : chosen === happened.id) {
    w.trace.push({
      at: w.now,
      step: step.id,
      code: 'until-happened',
      data: { arm: happened.id, ...whyArm(step.condition, w.asking) },
    });
    return { next: happened.steps[0] ?? on };
  }
  const until = addPeriod(zoneOf(w.facts.person.zone), w.visit.arrivedAt, step.amount, step.unit);
  if (until > w.now) {
    const { zone, zoneAssumed: assumed } = w.facts.person;
    // Looked at again, because what it waits for could have come about with time: that is told already.
    if (w.now === w.visit.arrivedAt)
      w.trace.push({ at: w.now, step: step.id, code: 'until-begun', data: { until, arm: happened.id, zone, assumed } });
    return { stop: chosen === undefined ? Math.min(until, nextTurn(step.condition, w.asking)) : until };
  }
  w.trace.push({ at: w.now, step: step.id, code: 'until-passed', data: { arm: not.id } });
  return { next: not.steps[0] ?? on };
}

function doStep(w: Walk, visited: Visited): Outcome {
  const { step } = visited;
  const on = nextStep(visited);
  if (!step.on) {
    tell(w, step.id, 'step-off');
    return { next: on };
  }
  switch (step.kind) {
    case 'email':
      return doEmail(w, step, on);
    case 'wait':
      return doWait(w, step, on);
    case 'action':
      catchUp(w);
      doAction(w, step);
      return { next: on };
    case 'leave':
      tell(w, step.id, 'left-by-step');
      return { next: null };
    case 'branch': {
      const chosen = w.run.choose?.(step);
      const arm = step.arms.find((a) =>
        chosen === undefined ? a.condition === null || evaluate(a.condition, w.asking) : a.id === chosen,
      );
      // The fact behind the answer: of the arm taken, or, on "otherwise", of the first arm that was not.
      const condition = arm?.condition ?? step.arms[0]?.condition;
      w.trace.push({
        at: w.now,
        step: step.id,
        code: arm?.condition ? 'branch-taken' : 'branch-otherwise',
        data: { arm: arm?.id ?? '', ...(condition ? whyArm(condition, w.asking) : {}) },
      });
      return { next: arm?.steps[0] ?? on };
    }
    case 'split':
      return doSplit(w, step, on);
    case 'until':
      return doUntil(w, step, on);
  }
}

function finish(visit: Visit, at: number, ending: Ending): void {
  visit.ending = ending;
  visit.step = null;
  visit.status = 'done';
  visit.dueAt = 0;
  visit.endedAt = at;
}

/** What ends a passage wherever it stands: the goal, or the rule for leaving beside it. */
export type EarlyEnd = 'goal' | 'exit';

/** The conditions that end a passage wherever it stands; where both hold, the goal was reached. */
export const earlyEnds = ({ goal, exit }: Runnable['sequence']): { why: EarlyEnd; when: Condition }[] => [
  ...(goal ? [{ why: 'goal', when: goal } as const] : []),
  ...(exit ? [{ why: 'exit', when: exit } as const] : []),
];

/**
 * Which early end has come by `now`, or null. Only what happened at or after entry counts, the event that began the passage
 * not. The server asks this once more before it hands over an email whose visit has ended meanwhile.
 */
export const earlyEnd = (run: Runnable, asking: Asking, cause?: string): EarlyEnd | null =>
  earlyEnds(run.sequence).find(({ when }) => evaluate(when, without(asking, cause)))?.why ?? null;

/** The reason that is told of each, and how the passage is remembered to have ended. */
const EARLY = {
  goal: { code: 'goal-reached', ending: 'goal' },
  exit: { code: 'left-by-rule', ending: 'left' },
} as const;

/** The same question without one event. */
const without = (asking: Asking, event: string | undefined): Asking =>
  event !== undefined && asking.facts.events.some((e) => e.id === event)
    ? { ...asking, facts: { ...asking.facts, events: asking.facts.events.filter((e) => e.id !== event) } }
    : asking;

/** An end that may come wherever the person stands, and since when it holds. */
interface End {
  told: TraceEntry;
  since: number;
  ending: Ending;
}

function ruledEnd(w: Walk): End | null {
  const asking = without(w.asking, w.visit.cause);
  const found = earlyEnds(w.run.sequence).find(({ when }) => evaluate(when, asking));
  if (!found) return null;
  const { code, ending } = EARLY[found.why];
  return {
    told: { at: w.clock, step: w.visit.step, code, data: whyArm(found.when, asking) },
    since: Math.max(w.visit.enteredAt, heldSince(found.when, asking) ?? w.clock),
    ending,
  };
}

/** The end that comes when mail is no longer allowed. */
function permissionEnd(w: Walk): End | null {
  const why = mailBar(w.run.sequence, w.facts);
  return why
    ? { told: { at: w.clock, step: w.visit.step, code: 'mail-stopped', data: { why } }, since: w.clock, ending: 'left' }
    : null;
}

/**
 * An end that what this very walk changed brings: a goal or a rule at once, a permission given up before the next email. What
 * else stands there is still done.
 */
function endByChange(w: Walk): End | null {
  if (!w.changed) return null;
  const end = ruledEnd(w);
  if (end) return end;
  return w.run.steps.get(w.visit.step ?? '')?.step.kind === 'email' ? permissionEnd(w) : null;
}

/**
 * The moment of the schedule that a visit is looked at for: its due time, or that of what it waits for. Null where
 * neither has come, so that only an early end can follow.
 */
function moment(before: Visit, standing: Step | undefined, asking: Asking): number | null {
  if (standing?.kind === 'until' && standing.on && evaluate(standing.condition, asking)) {
    const since = heldSince(standing.condition, asking) ?? Math.min(before.dueAt, asking.now);
    return Math.max(before.arrivedAt, since);
  }
  return asking.now < before.dueAt ? null : before.dueAt;
}

/**
 * Moves one visit on as far as it goes at one instant: pure, and the only place where anything is decided. The server,
 * a rehearsal and a forecast all call it.
 *
 * `clock` is the present (epoch ms): goal, rule for leaving, permission and every condition are asked of what is known at it. The visit's
 * own due time is the moment of the schedule, from which waits, windows and deadlines are reckoned, so that lag never
 * drifts one; from the first email that is given, or thing that is done, more than an hour late, the clock is, and windows
 * are asked again. Looked at before its time (a fact has woken it), only an early end can follow, or the thing that a person
 * is waiting for.
 */
export function advance(before: Visit, run: Runnable, facts: Facts, clock: number): Advanced {
  const visit: Visit = { ...before, stepTimes: { ...before.stepTimes } };
  const standing = visit.step === null ? undefined : run.steps.get(visit.step)?.step;
  const asking: Asking = { facts, now: clock, enteredAt: visit.enteredAt, stepTimes: visit.stepTimes };
  const due = moment(before, standing, asking);
  const w: Walk = { visit, now: due ?? clock, clock, changed: false, effects: [], trace: [], asking, facts, run };

  for (let end = ruledEnd(w) ?? permissionEnd(w); ; end = endByChange(w)) {
    if (end) {
      w.trace.push(end.told);
      finish(visit, end.since, end.ending);
    }
    if (due === null || visit.step === null) break;
    const visited = run.steps.get(visit.step);
    w.changed = false;
    const outcome = visited ? doStep(w, visited) : { next: null };
    if ('stop' in outcome) {
      visit.dueAt = outcome.stop;
      // Whoever waits anew is late for nothing: the email behind this wait has a moment of its own.
      visit.tooLate = false;
      break;
    }
    visit.held = false;
    visit.arrivedAt = w.now;
    if (outcome.next) {
      visit.step = outcome.next.id;
      continue;
    }
    const leaves = visited?.step.kind === 'leave' || w.trace.some((t) => t.data.leaves);
    if (!leaves) w.trace.push({ at: w.now, step: visit.step, code: 'reached-end', data: {} });
    finish(visit, w.now, leaves ? 'left' : 'end');
  }
  return { visit, effects: w.effects, trace: w.trace, person: w.facts.person };
}
