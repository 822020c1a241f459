import { describe, expect, test } from 'vitest';
import {
  blankSequence,
  blankStep,
  type Condition,
  emailSteps,
  type EventFact,
  factsAbout,
  HOUR,
  rehearse,
  type Sequence,
  type Step,
} from '@ascenso/core';
import { branchStep, emailStep, testId, useWorld, waitStep } from './support/world.ts';

// Cases reckoned with paper and a wall calendar: the server and the rehearsal both have to come to the same. Times are UTC;
// Lisbon is on UTC until 29 March 2026, 1:00, and an hour ahead from then on.
const world = useWorld();
const utc = (text: string) => Date.parse(`2026-${text}Z`);

const windowed = (name: string, days: number[], from: number, to: number, zone?: string): Step => ({
  ...emailStep(name),
  window: { days, from: from * 60, to: to * 60, ...(zone ? { zone } : {}) },
});
const at = (until: object): Step => ({ ...blankStep('wait', testId), at: until }) as Step;
const did = (event: string, more: object = {}): Condition => ({
  kind: 'event',
  event,
  done: true,
  since: { kind: 'entry' },
  where: [],
  ...more,
});
const branch = (condition: Condition, yes: Step[], no: Step[]) => branchStep([condition, yes], [null, no]);
const until = (condition: Condition, days: number, happened: Step[], not: Step[]): Step => {
  const step = blankStep('until', testId) as Step & { kind: 'until' };
  Object.assign(step, { condition, amount: days, unit: 'days' });
  step.arms[0].steps = happened;
  step.arms[1].steps = not;
  return step;
};
const act = (action: object): Step => ({ ...blankStep('action', testId), action }) as Step;
const allDays = [0, 1, 2, 3, 4, 5, 6];

interface Case {
  what: string;
  zone?: string;
  begins: string;
  steps: () => Step[];
  more?: Partial<Sequence>;
  /** Beside the one that starts it. */
  events?: [name: string, at: string, payload?: Record<string, unknown>][];
  comes: [string, string][];
}

const cases: Case[] = [
  {
    what: 'a day later is the same hour across the change of clocks, 24 hours later is an hour off it',
    begins: '03-28T19:00',
    steps: () => [waitStep(1), emailStep('Day'), waitStep(24, 'hours'), emailStep('Hours')],
    comes: [
      ['Day', '03-29T18:00'],
      ['Hours', '03-30T18:00'],
    ],
  },
  {
    what: 'Fridays from 8:00, reached on a Friday at noon: the Friday after',
    begins: '03-06T12:00',
    steps: () => [windowed('Friday', [5], 8, 9)],
    comes: [['Friday', '03-13T08:00']],
  },
  {
    what: 'a window over midnight on a Saturday is open until two on Sunday',
    begins: '03-15T01:30',
    steps: () => [windowed('Night', [6], 22, 2), waitStep(1, 'hours'), windowed('Next night', [6], 22, 2)],
    comes: [
      ['Night', '03-15T01:30'],
      ['Next night', '03-21T22:00'],
    ],
  },
  {
    what: 'an hour that the clocks jump over: 1:30 on 29 March in Lisbon is 2:30 there',
    begins: '03-28T01:30',
    steps: () => [waitStep(1), emailStep('In the gap')],
    comes: [['In the gap', '03-29T01:30']],
  },
  {
    what: 'a fixed zone does not ask where the reader is',
    zone: 'Asia/Tokyo',
    begins: '03-30T10:00',
    steps: () => [
      windowed('Nine in Lisbon', allDays, 9, 10, 'Europe/Lisbon'),
      windowed('Nine in Tokyo', allDays, 9, 10),
    ],
    comes: [
      ['Nine in Lisbon', '03-31T08:00'],
      ['Nine in Tokyo', '04-01T00:00'],
    ],
  },
  {
    what: 'an event at the very instant of the question counts: events first, then visits',
    begins: '04-01T12:00',
    steps: () => [waitStep(2, 'hours'), branch(did('order.paid'), [emailStep('Ordered')], [emailStep('Not yet')])],
    events: [['order.paid', '04-01T14:00']],
    comes: [['Ordered', '04-01T14:00']],
  },
  {
    what: 'the goal at the very instant an email is due: it does not go out',
    begins: '04-02T12:00',
    steps: () => [emailStep('First'), waitStep(1), emailStep('Second')],
    more: { goal: did('order.paid') },
    events: [['order.paid', '04-03T12:00']],
    comes: [['First', '04-02T12:00']],
  },
  {
    what: 'what happened in the very moment of entry is since entry for a branch',
    begins: '04-04T12:00',
    steps: () => [branch(did('order.paid'), [emailStep('Seen')], [emailStep('Not seen')])],
    events: [['order.paid', '04-04T12:00']],
    comes: [['Seen', '04-04T12:00']],
  },
  {
    what: 'and for the goal: shops tell whole seconds, and an order in the second of its checkout is one',
    begins: '04-04T12:00',
    steps: () => [emailStep('Your cart')],
    more: { goal: did('order.paid') },
    events: [['order.paid', '04-04T12:00']],
    comes: [],
  },
  {
    what: 'waiting until it happens goes on at that very moment; else at the end of the third day, same hour',
    begins: '04-05T09:00',
    steps: () => [
      until(did('lesson.opened'), 3, [emailStep('Opened')], [emailStep('Asleep')]),
      waitStep(1),
      until(did('lesson.opened', { times: 2 }), 3, [emailStep('Twice')], [emailStep('Only once')]),
    ],
    events: [['lesson.opened', '04-06T22:17']],
    comes: [
      ['Opened', '04-06T22:17'],
      ['Only once', '04-10T22:17'],
    ],
  },
  {
    what: 'the day before a date that the event carries, at ten where the reader is; a date gone by lets them go on',
    zone: 'America/New_York',
    begins: '04-10T12:00',
    steps: () => [
      at({ kind: 'date', field: 'event.starts', days: -1, minute: 600, passed: 'leave' }),
      emailStep('Tomorrow'),
      at({ kind: 'date', field: 'event.starts', days: -2, minute: 600, passed: 'go-on' }),
      emailStep('Too late for that'),
    ],
    comes: [
      ['Tomorrow', '04-16T14:00'],
      ['Too late for that', '04-16T14:00'],
    ],
  },
  {
    what: 'Mondays and Thursdays at seven in the evening, three times running, from a Thursday at seven',
    begins: '04-16T18:00',
    steps: () =>
      [1, 2, 3].flatMap((n) => [at({ kind: 'weekday', days: [1, 4], minute: 1140 }), emailStep(`Lesson ${n}`)]),
    comes: [
      ['Lesson 1', '04-20T18:00'],
      ['Lesson 2', '04-23T18:00'],
      ['Lesson 3', '04-27T18:00'],
    ],
  },
  {
    what: 'an email decided before the sequence itself reaches its goal still goes out, and nothing after it',
    begins: '04-28T09:00',
    steps: () => [
      emailStep('Last words'),
      act({ type: 'set-attribute', key: 'orders', value: 3 }),
      waitStep(1),
      emailStep('Never'),
    ],
    more: { goal: { kind: 'attribute', test: { field: 'orders', op: 'over', value: 2 } } },
    comes: [['Last words', '04-28T09:00']],
  },
  {
    what: 'the same where the sequence ends in that moment',
    begins: '04-28T11:00',
    steps: () => [emailStep('The only one'), act({ type: 'set-attribute', key: 'orders', value: 3 })],
    more: { goal: { kind: 'attribute', test: { field: 'orders', op: 'over', value: 2 } } },
    comes: [['The only one', '04-28T11:00']],
  },
  {
    what: 'twice looked at the same thing is not two things looked at once each',
    begins: '04-29T09:00',
    steps: () => [
      waitStep(1),
      branch(
        did('page.seen', { times: 2, per: 'product' }),
        [emailStep('Twice the same')],
        [emailStep('Nothing twice')],
      ),
    ],
    events: [
      ['page.seen', '04-29T10:00', { product: 'awl' }],
      ['page.seen', '04-29T11:00', { product: 'thread' }],
      ['page.seen', '04-29T12:00', { product: 'awl' }],
    ],
    comes: [['Twice the same', '04-30T09:00']],
  },
];

describe('worked by hand, by the server and by the rehearsal', () => {
  test.each(cases)('$what', async ({ zone = 'Europe/Lisbon', begins, steps, more, events = [], comes }) => {
    const type = `hand.${testId()}`;
    const email = `${type}@readers.example`;
    const doc: Sequence = {
      ...blankSequence(type, null),
      triggers: [{ kind: 'event', event: type, where: [] }],
      steps: steps(),
      ...more,
    };
    const entry = { starts: '2026-04-17T18:00:00+01:00' };
    const happens: EventFact[] = events.map(([name, when, payload = {}]) => ({ name, at: utc(when), payload }));
    const expected = comes.map(([name, when]) => [name, new Date(utc(when)).toISOString()]);
    const facts = factsAbout({ id: 'p', email, zone });
    const said = rehearse({
      sequence: doc,
      facts,
      at: utc(begins),
      entry,
      usually: { does: 'ignores' },
      emails: {},
      events: happens,
    });
    const names = new Map(emailSteps(doc).map((e) => [e.id, e.name]));
    expect(
      said.moments.flatMap((m) => (m.kind === 'email' ? [[names.get(m.step), new Date(m.at).toISOString()]] : [])),
    ).toEqual(expected);

    await world.stand(utc(begins) - HOUR);
    await world.join(email, { zone });
    await world.live(doc);
    const all = [
      { at: utc(begins), type, data: entry as Record<string, unknown> },
      ...happens.map((e) => ({ at: e.at, type: e.name, data: e.payload })),
    ];
    for (const moment of [...new Set(all.map((e) => e.at))].sort((a, b) => a - b)) {
      if (moment > (await world.now())) {
        await world.ahead(moment - 1);
        await world.stand(moment);
      }
      for (const e of all.filter((k) => k.at === moment))
        await world.event({ type: e.type, subject: email, time: e.at, data: e.data }).expect(202);
    }
    await world.ahead(utc(begins) + 30 * 24 * HOUR);
    expect(
      world
        .mail()
        .filter((m) => m.to === email)
        .map((m) => [m.subject, new Date(m.at).toISOString()]),
    ).toEqual(expected);
  });
});
