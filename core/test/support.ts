import { factsAbout, type Asking, type Condition, type EventFact, type Facts } from '../src/audience/index.ts';
import {
  blankEmail,
  blankSequence,
  type EmailStep,
  type Sequence,
  type Step,
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
