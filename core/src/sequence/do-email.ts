import { evaluate, type Facts } from '../audience/index.ts';
import { addDays, HOUR, nextInWindow, zoneOf, type Zone } from '../time/index.ts';
import { yieldsTo } from './day-order.ts';
import type { EmailStep, Sequence, Step } from './schema.ts';
import { grantOffer, nowGiven, offerBar } from './do-offer.ts';
import { cause, know, tell, type Outcome, type Walk } from './visit.ts';

/** Why a person may not be mailed by this sequence, or null when they may. */
export function mailBar(
  sequence: Sequence,
  facts: Facts,
): 'bounced' | 'complained' | 'unsubscribed' | 'left-list' | null {
  const { mailStatus, lists } = facts.person;
  if (mailStatus === 'bounced') return 'bounced';
  if (sequence.list === null) return null;
  if (mailStatus !== 'ok') return mailStatus;
  return lists[sequence.list] === 'confirmed' ? null : 'left-list';
}

/** When the next marketing email may go to somebody who wants some days between them, or 0 where it may at once. */
function paceFree(w: Walk, zone: Zone): number {
  const { list, cap } = w.run.sequence;
  const { pace } = w.facts.person;
  return list === null || cap.exempt || pace?.last == null ? 0 : addDays(zone, pace.last, pace.days);
}

/** More than this late, and the moment itself counts for an email rather than the one that was planned. */
export const LATE = HOUR;

/** Whoever is more than an hour late is given things now: the planned moment has gone, and windows are asked again. */
export function catchUp(w: Walk): void {
  if (w.clock - w.now <= LATE) return;
  w.now = w.clock;
  w.visit.held = false;
}

/**
 * Decides about one email: passed over, held for its window, put off for others, or given to be sent. One that goes to nobody
 * leaves the schedule as it was, however late we are: what stands behind it counts from the planned moment.
 */
export function doEmail(w: Walk, step: EmailStep, on: Step | null): Outcome {
  const planned = w.now;
  const outcome = decide(w, step, on);
  if ('next' in outcome && w.visit.stepTimes[step.id] !== w.now) w.now = planned;
  return outcome;
}

function decide(w: Walk, step: EmailStep, on: Step | null): Outcome {
  const { visit } = w;
  // A step that was moved ahead of a person who has passed it: never twice in one visit.
  if (visit.stepTimes[step.id] !== undefined) {
    tell(w, step.id, 'email-repeat');
    return { next: on };
  }
  if (visit.tooLate) {
    visit.tooLate = false;
    tell(w, step.id, 'email-too-late');
    return { next: on };
  }
  if (step.forWhom && !evaluate(step.forWhom, w.asking)) {
    tell(w, step.id, 'email-skipped');
    return { next: on };
  }
  catchUp(w);
  return offerBar(w, step) ? { next: on } : give(w, step, on);
}

/** Holds an email for its window, a pause, the days between two of them or the rules of the day, or gives it. */
function give(w: Walk, step: EmailStep, on: Step | null): Outcome {
  const { visit, now } = w;
  const zone = zoneOf(w.facts.person.zone);
  const told = { zone: zone.name, assumed: w.facts.person.zoneAssumed };
  const windowZone = step.window?.zone ? zoneOf(step.window.zone) : zone;
  const opens = (from: number) => (step.window ? nextInWindow(windowZone, step.window, from) : from);
  const until = visit.held ? now : opens(now);
  if (until > now) {
    visit.held = true;
    const whose = step.window?.zone ? { zone: windowZone.name, assumed: false } : told;
    tell(w, step.id, 'email-held', { until, ...whose });
    return { stop: until };
  }
  const pause = w.run.sequence.list === null ? 0 : (w.facts.person.pausedUntil ?? 0);
  if (pause > now) {
    // Not held: should they end the pause themselves, the window is asked then.
    const after = opens(pause);
    tell(w, step.id, 'email-paused', { until: after, ...told });
    return { stop: after };
  }
  const free = paceFree(w, zone);
  if (free > now) {
    const after = opens(free);
    tell(w, step.id, 'email-paced', { until: after, days: w.facts.person.pace?.days ?? 0, ...told });
    return { stop: after };
  }
  const { list, cap } = w.run.sequence;
  const yields = list !== null && w.facts.mailing ? yieldsTo(cap, w.facts.mailing, zone, now) : null;
  if (yields && cap.yields === 'skip') {
    tell(w, step.id, 'email-yielded', { ...yields });
    return { next: on };
  }
  if (yields) {
    visit.held = true;
    const later = opens(addDays(zone, now, 1));
    tell(w, step.id, 'email-yields', { until: later, ...told, ...yields });
    return { stop: later };
  }
  const granted = grantOffer(w, step);
  if (granted && !('kind' in granted)) return granted;
  delete visit.awaits;
  if (granted) {
    cause(w, granted);
    nowGiven(w, granted);
    tell(w, step.id, 'offer-opened', {
      offer: granted.offer,
      ...(granted.closes === null ? {} : { closes: granted.closes, ...told }),
    });
  }
  cause(w, { kind: 'send', step: step.id, dueAt: now });
  tell(w, step.id, 'email-sent');
  const { pace } = w.facts.person;
  if (pace && list !== null) know(w, { ...w.facts, person: { ...w.facts.person, pace: { ...pace, last: now } } });
  if (step.thenTag) cause(w, { kind: 'tag', step: step.id, tag: step.thenTag, add: true });
  if (step.thenPoints) cause(w, { kind: 'points', step: step.id, points: step.thenPoints });
  visit.stepTimes[step.id] = now;
  return { next: on };
}
