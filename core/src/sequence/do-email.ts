import { evaluate, type Facts } from '../audience/index.ts';
import { addDays, DAY, nextInWindow, toWall, zoneOf, type Zone } from '../time/index.ts';
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

/** A day of the person's calendar, days since 1970 in their zone: what the daily cap counts by. */
export const localDay = (zone: Zone, at: number): number => Math.floor(toWall(zone, at) / DAY);

/** Why an email gives way now: the person has had enough today, or a sequence that goes first mails them today. */
function whyYields(w: Walk, zone: Zone): { why: 'cap' } | { why: 'priority'; sequence: string } | null {
  const { list, cap } = w.run.sequence;
  const { mailing } = w.facts;
  if (list === null || !mailing) return null;
  const today = localDay(zone, w.now);
  if (!cap.exempt && mailing.cap !== null && (mailing.given[today] ?? 0) >= mailing.cap) return { why: 'cap' };
  const first = mailing.others.find(
    (o) => o.priority < cap.priority && o.at >= w.now && localDay(zone, o.at) === today,
  );
  return first ? { why: 'priority', sequence: first.sequence } : null;
}

/** When the next marketing email may go to somebody who wants some days between them, or 0 where it may at once. */
function paceFree(w: Walk, zone: Zone): number {
  const { list, cap } = w.run.sequence;
  const { pace } = w.facts.person;
  return list === null || cap.exempt || pace?.last == null ? 0 : addDays(zone, pace.last, pace.days);
}

/** Decides about one email: passed over, held for its window, put off for others, or given to be sent. */
export function doEmail(w: Walk, step: EmailStep, on: Step | null): Outcome {
  const { visit, now } = w;
  const zone = zoneOf(w.facts.person.zone);
  const told = { zone: zone.name, assumed: w.facts.person.zoneAssumed };
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
  if (offerBar(w, step)) return { next: on };
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
  const yields = whyYields(w, zone);
  if (yields && w.run.sequence.cap.yields === 'skip') {
    tell(w, step.id, 'email-yielded', yields);
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
  if (pace && w.run.sequence.list !== null)
    know(w, { ...w.facts, person: { ...w.facts.person, pace: { ...pace, last: now } } });
  if (step.thenTag) cause(w, { kind: 'tag', step: step.id, tag: step.thenTag, add: true });
  if (step.thenPoints) cause(w, { kind: 'points', step: step.id, points: step.thenPoints });
  visit.stepTimes[step.id] = now;
  return { next: on };
}
