import fc from 'fast-check';
import {
  armsOf,
  blankEmail,
  blankSequence,
  blankStep,
  walk,
  type Condition,
  type SampleWorld,
  type SendWindow,
  type Sequence,
  type Step,
} from '@ascenso/core';
import { randomCondition } from '../../../core/test/random-conditions.ts';

// Random sequences, as nobody would write them: every kind of step and condition, in trees.

export const EVENTS = ['order.paid', 'lesson.opened', 'page.seen'];

/** What conditions ask about, beside what each sequence changes of its own. */
export interface Shared {
  lists: readonly string[];
  segments: readonly string[];
}

/** A condition may ask for an email, or count from it: the step is chosen once the tree is whole. */
const worldOf = (tree: number, shared: Shared): SampleWorld => ({
  ...shared,
  tags: [`tag-${tree}`],
  offers: [],
  sequences: [],
  links: [],
  events: EVENTS,
  steps: ['some email'],
  attributes: ['skill', `x${tree}`],
  payload: ['total'],
  values: ['new', 1, 25],
  dates: [],
});

/** A value once in `nothing` + 1 times, else null. */
const rarely = <T>(arbitrary: fc.Arbitrary<T>, nothing: number) =>
  fc.oneof({ weight: 1, arbitrary }, { weight: nothing, arbitrary: fc.constant(null) });

/** One sequence that an event of its own starts. `newId` gives ids that no other has. */
export function randomSequence(tree: number, newId: () => string, shared: Shared): fc.Arbitrary<Sequence> {
  const asked = randomCondition(worldOf(tree, shared));
  const window = fc.option(
    fc.constantFrom<SendWindow>(
      { days: [1, 2, 3, 4, 5], from: 480, to: 1080 },
      { days: [5], from: 480, to: 540 },
      { days: [0, 6], from: 1320, to: 120 },
      { days: [1, 3], from: 540, to: 600, zone: 'Europe/Lisbon' },
    ),
    { nil: null },
  );
  const step = (kind: Step['kind'], more: object): Step => ({ ...blankStep(kind, newId), ...more });
  const leaf: fc.Arbitrary<Step> = fc.oneof(
    {
      weight: 5,
      arbitrary: fc
        .record({ window, forWhom: rarely(asked, 3), on: fc.constantFrom(true, true, true, true, false) })
        .map((e) => ({ ...blankEmail(newId), ...e })),
    },
    {
      weight: 4,
      arbitrary: fc
        .record({
          amount: fc.constantFrom(0, 1, 2, 3),
          unit: fc.constantFrom('days' as const, 'days' as const, 'weeks' as const),
        })
        .map((w) => step('wait', w)),
    },
    { weight: 1, arbitrary: fc.constantFrom(6, 12, 24, 36).map((amount) => step('wait', { amount, unit: 'hours' })) },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom(
          { kind: 'weekday', days: [0], minute: 540 },
          { kind: 'weekday', days: [2, 4], minute: 1140 },
          { kind: 'day-of-year', month: 4, day: 5, minute: 120 },
          { kind: 'date', field: 'event.starts', days: -1, minute: 600, passed: 'go-on' },
          { kind: 'date', field: 'subscriber.nowhere', days: 1, minute: null, passed: 'leave' },
        )
        .map((at) => step('wait', { at })),
    },
    {
      weight: 1,
      arbitrary: fc
        .constantFrom(
          { type: 'add-tag', tag: `tag-${tree}` },
          { type: 'remove-tag', tag: `tag-${tree}` },
          { type: 'set-attribute', key: `x${tree}`, value: 2 },
        )
        .map((action) => step('action', { action })),
    },
    { weight: 1, arbitrary: fc.boolean().map((on) => step('leave', { on })) },
  );
  const { list } = fc.letrec<{ list: Step[] }>((tie) => ({
    list: fc.array(
      fc.oneof(
        { maxDepth: 2 },
        { weight: 3, arbitrary: leaf },
        {
          weight: 1,
          arbitrary: fc
            .record({
              kind: fc.constantFrom('branch' as const, 'split' as const, 'until' as const, 'until' as const),
              condition: asked,
              amount: fc.constantFrom(1, 3),
              a: tie('list'),
              b: tie('list'),
            })
            .map(({ kind, condition: c, amount, a, b }) => {
              const fork = step(kind, kind === 'until' ? { condition: c, amount, unit: 'days' } : {});
              if (fork.kind === 'branch' && fork.arms[0]) fork.arms[0].condition = c;
              armsOf(fork).forEach((arm, i) => arm.steps.push(...(i === 0 ? a : b)));
              return fork;
            }),
        },
      ),
      { minLength: 2, maxLength: 6, size: 'max' },
    ),
  }));
  // A goal that holds from the beginning would end everything at once.
  const goal = fc.constantFrom<Condition>(
    { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] },
    { kind: 'event', event: 'page.seen', done: true, since: { kind: 'entry' }, where: [], times: 2 },
    { kind: 'attribute', test: { field: `x${tree}`, op: 'over', value: 1 } },
  );
  return fc
    .record({
      steps: list,
      goal: rarely(goal, 2),
      exit: rarely(goal, 1),
      filter: rarely(
        fc.constant<Condition>({ kind: 'attribute', test: { field: 'skill', op: 'is', value: 'new' } }),
        5,
      ),
      pick: fc.nat(1000),
    })
    .map(({ steps, goal, filter, pick }) => {
      const first = blankEmail(newId);
      const doc: Sequence = {
        ...blankSequence(`Tree ${tree}`, null),
        triggers: [{ kind: 'event', event: `begin.${tree}`, where: [] }],
        goal,
        filter,
        steps: [first, ...steps],
      };
      const emails = walk(doc).flatMap(({ step: s }) => (s.kind === 'email' ? [s.id] : []));
      return JSON.parse(
        JSON.stringify(doc).replaceAll('some email', emails[pick % emails.length] ?? first.id),
      ) as Sequence;
    });
}
