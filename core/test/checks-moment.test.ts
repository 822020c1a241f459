import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, test } from 'vitest';
import { plainNames, type Condition } from '../src/audience/index.ts';
import { momentFor, triggersWords, type SplitRule, type Step, type TriggerOf } from '../src/sequence/index.ts';
import { zoneOf } from '../src/time/index.ts';
import { checkCase, good, type Case } from './check-case.ts';
import { sequence } from './support.ts';

const moment = (day: string, zone: string | null = null, minute = 540): TriggerOf<'moment'> => ({
  kind: 'moment',
  when: 'day',
  day,
  minute,
  zone,
});
const oneOff = (trigger: TriggerOf<'moment'>, more: Partial<Parameters<typeof sequence>[1]> = {}) =>
  sequence([good()], { triggers: [trigger], ...more });
// Zones that both sets of tables have alike.
const zones = [
  'Europe/Lisbon',
  'America/New_York',
  'Asia/Tokyo',
  'Asia/Kolkata',
  'Australia/Sydney',
  'Pacific/Auckland',
];
const now = Date.UTC(2026, 2, 6, 12);

const cases: Case[] = [
  {
    check: 'moment-passed',
    what: 'a day that is over everywhere',
    bad: oneOff(moment('2026-03-04')),
    near: oneOff(moment('2026-03-07')),
    place: { part: 'trigger' },
    level: 'error',
    context: { now, self: 'draft' },
  },
  {
    check: 'moment-passed',
    what: 'an hour of one zone that has passed',
    bad: oneOff(moment('2026-03-06', 'Europe/Lisbon')),
    near: oneOff(moment('2026-03-06', 'America/New_York')),
    place: { part: 'trigger' },
    level: 'error',
    context: { now, self: 'draft' },
  },
  {
    check: 'moment-passed',
    what: 'an hour that has passed in the zones that are ahead',
    bad: oneOff(moment('2026-03-06')),
    near: oneOff(moment('2026-03-08')),
    place: { part: 'trigger' },
    level: 'warning',
    context: { now, self: 'draft' },
  },
  {
    check: 'moment-passed',
    what: 'what has gone out, edited after it',
    bad: oneOff(moment('2026-03-04')),
    near: oneOff({ ...moment(''), when: 'published' }),
    place: { part: 'trigger' },
    level: 'warning',
    context: { now, self: 'here' },
  },
  {
    check: 'unfinished',
    what: 'no day is chosen',
    bad: oneOff(moment('')),
    near: oneOff({ ...moment(''), when: 'published' }),
    place: { part: 'trigger' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a day that the calendar does not have',
    bad: oneOff(moment('2026-02-30')),
    near: oneOff(moment('2026-02-28')),
    place: { part: 'trigger' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'whom it is for asks about the passage that nobody has begun',
    bad: oneOff(moment('2026-03-07'), {
      filter: { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] },
    }),
    near: oneOff(moment('2026-03-07'), {
      filter: { kind: 'event', event: 'order.paid', done: true, since: { kind: 'ever' }, where: [] },
    }),
    place: { part: 'trigger' },
    level: 'error',
  },
];

const letters = (mode?: 'text') => good(mode ? { mode } : {});
const ruled = (measure: SplitRule['measure'], arms: Step[][] = [[letters()], [letters()]]): Step => ({
  id: 'test',
  on: true,
  note: '',
  kind: 'split',
  name: 'Two ways',
  arms: arms.map((steps, i) => ({ id: `arm${i}`, weight: 50, steps })),
  rule: { measure, first: 100, after: null },
});
const goal: Condition = { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] };
cases.push(
  {
    check: 'decided-by-nothing',
    what: 'by a goal that is not there',
    bad: sequence([ruled('goal')]),
    near: sequence([ruled('goal')], { goal }),
    place: { step: 'test' },
    level: 'error',
  },
  {
    check: 'decided-by-nothing',
    what: 'by clicks, where an arm sends nothing',
    bad: sequence([ruled('clicked', [[letters()], []])]),
    near: sequence([ruled('money', [[letters()], []])]),
    place: { step: 'test' },
    level: 'error',
  },
  {
    check: 'decided-by-nothing',
    what: 'by openings of an email that is text only',
    bad: sequence([ruled('opened', [[letters()], [letters('text')]])]),
    near: sequence([ruled('clicked', [[letters()], [letters('text')]])]),
    place: { step: 'test' },
    level: 'error',
  },
);

describe('what a send to everybody has to say before it goes out', () => {
  test.each(cases)('$check: $what', (c) => checkCase(c));
});

test('its moment is that wall time in each zone, as Temporal (temporal-polyfill) has it', () => {
  const day = fc.date({ min: new Date('2001-01-01'), max: new Date('2035-12-31'), noInvalidDate: true });
  fc.assert(
    fc.property(fc.constantFrom(...zones), day, fc.nat(1439), (zone, date, minute) => {
      const iso = date.toISOString().slice(0, 10);
      const wall = Temporal.PlainDate.from(iso).toPlainDateTime({ hour: Math.floor(minute / 60), minute: minute % 60 });
      const theirs = wall.toZonedDateTime(zone).epochMilliseconds;
      expect(momentFor(moment(iso, null, minute), zoneOf(zone))).toBe(theirs);
      expect(momentFor(moment(iso, zone, minute), zoneOf('Asia/Tokyo'))).toBe(theirs);
    }),
  );
});

test('is read as a sentence', () => {
  const words = (t: TriggerOf<'moment'>) => triggersWords([t], plainNames);
  expect(words(moment('2026-12-03'))).toBe('Once, on Thursday 3 December 2026 at 9:00 in each reader’s own zone');
  expect(words(moment('2026-12-03', 'Europe/Lisbon', 1050))).toBe(
    'Once, on Thursday 3 December 2026 at 17:30 in Lisbon',
  );
  expect(words({ ...moment(''), when: 'published' })).toBe('Once, when it is published');
  expect(words(moment(''))).toBe('Choose the day on which it goes out');
});
