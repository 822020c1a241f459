import { expect } from 'vitest';
import { factsAbout, type Asking, type Condition, type EventFact, type Facts } from '../src/audience/index.ts';
import {
  advance,
  blankEmail,
  blankSequence,
  enter,
  prepare,
  type EmailStep,
  type Sequence,
  type Step,
  type Visit,
  type WaitStep,
} from '../src/sequence/index.ts';

/** Friday 6 March 2026, 12:00 in Lisbon. */
export const NOON = Date.UTC(2026, 2, 6, 12);
export const HOUR = 3_600_000;
export const DAY = 24 * HOUR;

let counter = 0;
export const id = () => `s${++counter}`;

export const facts = (person: Partial<Facts['person']> = {}, more: Partial<Omit<Facts, 'person'>> = {}): Facts =>
  factsAbout(
    { id: 'p', email: 'marta@readers.example', zone: 'Europe/Lisbon', lists: { letters: 'confirmed' }, ...person },
    more,
  );

export const event = (name: string, at: number, payload: Record<string, unknown> = {}): EventFact => ({
  name,
  at,
  payload,
});

export const asking = (f: Facts, more: Partial<Asking> = {}): Asking => ({
  facts: f,
  now: NOON,
  enteredAt: NOON - DAY,
  stepTimes: {},
  ...more,
});

export function emailStep(name: string, more: Partial<EmailStep> = {}): EmailStep {
  return { ...blankEmail(id, name), ...more };
}
/** A branch with one condition and an "otherwise". */
export const branchStep = (condition: Condition, yes: Step[], otherwise: Step[] = []): Step => ({
  id: id(),
  on: true,
  note: '',
  kind: 'branch',
  name: '',
  arms: [
    { id: id(), condition, steps: yes },
    { id: id(), condition: null, steps: otherwise },
  ],
});
export const waitStep = (amount: number, unit: WaitStep['unit'] = 'days'): WaitStep => ({
  id: id(),
  on: true,
  note: '',
  kind: 'wait',
  amount,
  unit,
  at: null,
});
export const sequence = (steps: Step[], more: Partial<Sequence> = {}): Sequence => ({
  ...blankSequence('Welcome', 'letters'),
  triggers: [{ kind: 'list', list: 'letters', what: 'joined' }],
  steps,
  ...more,
});

/** Lets one person live through a sequence, stopping at every due moment, as the server does. */
export function live(doc: Sequence, known: Facts | ((now: number) => Facts), until = NOON + 400 * DAY) {
  const run = prepare(doc);
  let visit: Visit = enter('v', 'q', 1, run, NOON, {});
  const sends: { step: string; at: number }[] = [];
  const trace = [];
  while (visit.status === 'active' && visit.dueAt <= until) {
    const now = visit.dueAt;
    const done = advance(visit, run, typeof known === 'function' ? known(now) : known, now);
    for (const e of done.effects) if (e.kind === 'send') sends.push({ step: e.step, at: e.dueAt });
    trace.push(...done.trace);
    // It either ends or moves on in time: a visit that stood still would hold the loop for ever.
    expect(done.visit.status === 'done' || done.visit.dueAt > now).toBe(true);
    visit = done.visit;
  }
  return { visit, sends, trace };
}
