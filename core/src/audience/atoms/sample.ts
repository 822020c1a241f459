import { operators, type FieldTest } from '../field-test.ts';
import type { Since } from '../since.ts';

/** Chooses one of several: a random test says how. */
export type Picker = <T>(of: readonly T[]) => T;

/** What there is to ask about in a made-up world. A kind of question with nothing to ask about is not asked. */
export interface SampleWorld {
  tags: readonly string[];
  lists: readonly string[];
  segments: readonly string[];
  offers: readonly string[];
  /** Other sequences, by id. */
  sequences: readonly string[];
  /** Hosts of links, and words of them. */
  links: readonly string[];
  events: readonly string[];
  /** Emails of the sequence, by step id; none outside one. */
  steps: readonly string[];
  /** Paths of attributes, and of fields of the events' payloads. */
  attributes: readonly string[];
  payload: readonly string[];
  values: readonly (string | number | boolean)[];
  /** ISO 8601 days, with and without a time behind. */
  dates: readonly string[];
}

/** Numbers of hours, days and weeks that random questions look over. */
const AMOUNTS = [1, 2, 5, 30, 80];
export const samplePeriod = (pick: Picker) => ({
  amount: pick(AMOUNTS),
  unit: pick(['hours', 'days', 'weeks'] as const),
});

export function sampleTest(fields: readonly string[], { values, dates }: SampleWorld, pick: Picker): FieldTest {
  const op = pick(operators);
  const ofDay = (op === 'before' || op === 'after') && dates.length > 0 && pick([true, true, false]);
  const field = pick(fields);
  if (op === 'is set' || op === 'is not set') return { field, op };
  if (op === 'is one of' || op === 'is none of')
    return { field, op, value: [String(pick(values)), String(pick(values))] };
  return { field, op, value: pick(ofDay ? dates : values) };
}

export function sampleSince({ steps }: SampleWorld, pick: Picker): Since {
  const outside: Since[] = [{ kind: 'ever' }, { kind: 'period', ...samplePeriod(pick) }];
  return pick(steps.length > 0 ? [...outside, { kind: 'entry' }, { kind: 'step', step: pick(steps) }] : outside);
}
