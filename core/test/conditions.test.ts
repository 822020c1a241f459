import fc from 'fast-check';
import { describe as group, expect, test } from 'vitest';
import {
  askedByAtoms,
  atomKinds,
  conditionSchema,
  kindOfAtom,
  describe,
  evaluate,
  matchingEvent,
  operators,
  plainNames,
  testField,
  type Condition,
  type FieldTest,
  type MembershipState,
  type SampleWorld,
} from '../src/audience/index.ts';
import { randomAtom, randomCondition } from './random-conditions.ts';
import { asking, DAY, event, facts, HOUR, NOON } from './support.ts';

const field = (op: FieldTest['op'], value?: FieldTest['value']): FieldTest => ({
  field: 'total',
  op,
  ...(value === undefined ? {} : { value }),
});

group('every operator, seen true and false', () => {
  const cases: [FieldTest, unknown, boolean, string][] = [
    [field('is', 'Kit'), 'kit', true, 'text compares without case'],
    [field('is', 'Kit'), 'kits', false, 'the whole text counts'],
    [field('is', 25), '25', true, 'a number sent as text is that number'],
    [field('is', 'waxed'), ['raw', 'Waxed'], true, 'a list is what any of its items is'],
    [field('is', ''), '', false, 'what is missing equals nothing, not even nothing'],
    [field('is not', 'Kit'), 'thread', true, 'another text'],
    [field('is not', 'Kit'), undefined, true, 'what is missing is not it'],
    [field('is not', 'Kit'), 'KIT', false, 'the same text'],
    [field('contains', 'stitch'), 'Long-Stitch kit', true, 'a part, without case'],
    [field('contains', 'stitch'), 'Thread', false, 'no such part'],
    [field('contains', 'stitch'), null, false, 'nothing contains nothing'],
    [field('is one of', ['Kit', 'Thread']), 'thread', true, 'one of several, without case'],
    [field('is one of', ['Kit', 'Thread']), ['wax', 'kit'], true, 'an item of a list is one of them'],
    [field('is one of', ['Kit', 'Thread']), 'kits', false, 'none of them'],
    [field('is one of', []), 'kit', false, 'nothing is one of none'],
    [field('is none of', ['Kit', 'Thread']), 'wax', true, 'none of them'],
    [field('is none of', ['Kit', 'Thread']), undefined, true, 'what is missing is none of them'],
    [field('is none of', ['Kit', 'Thread']), 'KIT', false, 'one of them'],
    [field('begins with', 'long'), 'Long-stitch kit', true, 'its beginning, without case'],
    [field('begins with', 'stitch'), 'Long-stitch kit', false, 'not from its middle'],
    [field('begins with', 'x'), null, false, 'nothing begins with nothing'],
    [field('over', 25), 25.01, true, 'more'],
    [field('over', 25), 25, false, 'as much is not over'],
    [field('over', 25), 'many', false, 'words are no number'],
    [field('over', 0), null, false, 'what is missing is not 0'],
    [field('under', 25), 24.99, true, 'less'],
    [field('under', 25), 25, false, 'as much is not under'],
    [field('under', 25), '', false, 'what is empty is not 0'],
    [field('before', '2026-03-06'), '2026-03-05', true, 'an earlier day'],
    [field('before', '2026-03-06'), '2026-03-06T00:00:00Z', false, 'the same day, whatever the hour'],
    [field('before', '2026-03-06'), 'soon', false, 'words are no date'],
    [field('after', '2026-03-06'), '2026-10-01', true, 'a later day'],
    [field('after', '2026-03-06'), null, false, 'what is missing has no day'],
    [field('contains', 'wax'), ['raw', 'Waxed'], true, 'a list contains what any of its items does'],
    [field('over', 25), ' 26', false, 'a text that is not only a number is none'],
    [field('is set'), 0, true, '0 is a value'],
    [field('is set'), false, true, 'no is a value'],
    [field('is set'), '', false, 'an empty text is none'],
    [field('is set'), [], false, 'an empty list is none'],
    [field('is not set'), undefined, true, 'never came'],
    [field('is not set'), 0, false, '0 came'],
  ];
  test.each(cases)('%j of %j is %s: %s', (t, actual, expected) => {
    expect(testField(t, actual)).toBe(expected);
  });

  test('none is missing from the table', () => {
    for (const op of operators)
      for (const answer of [true, false])
        expect([op, answer, cases.some(([t, , expected]) => t.op === op && expected === answer)]).toEqual([
          op,
          answer,
          true,
        ]);
  });

  test('own properties only: what every object inherits is not set', () => {
    const person = facts({ attributes: {} });
    for (const name of ['constructor', '__proto__', 'toString'])
      expect(evaluate({ kind: 'attribute', test: { field: name, op: 'is set' } }, asking(person))).toBe(false);
  });
});

group('what happened, and since when', () => {
  const did = (
    since: Extract<Condition, { kind: 'event' }>['since'],
    where: FieldTest[] = [],
  ): Extract<Condition, { kind: 'event' }> => ({ kind: 'event', event: 'order.paid', done: true, since, where });
  const at = (when: number, payload = {}) => facts({}, { events: [event('order.paid', when, payload)] });

  test('since joining: from the moment of entry on', () => {
    expect(evaluate(did({ kind: 'entry' }), asking(at(NOON - DAY)))).toBe(true);
    expect(evaluate(did({ kind: 'entry' }), asking(at(NOON - DAY - 1)))).toBe(false);
  });
  test('since a step: from its decided moment; a step not yet passed counts from entry', () => {
    const stepTimes = { kit: NOON - HOUR };
    expect(evaluate(did({ kind: 'step', step: 'kit' }), asking(at(NOON - HOUR), { stepTimes }))).toBe(true);
    expect(evaluate(did({ kind: 'step', step: 'kit' }), asking(at(NOON - HOUR - 1), { stepTimes }))).toBe(false);
    expect(evaluate(did({ kind: 'step', step: 'kit' }), asking(at(NOON - DAY)))).toBe(true);
  });
  test('in the last days: the wall time that many days back in the person’s zone, over a change of clocks', () => {
    // Lisbon went to summer time on 29 March 2026: two days back from Monday noon is Saturday noon, 47 hours ago.
    const monday = Date.UTC(2026, 2, 30, 11);
    const period = { kind: 'period', amount: 2, unit: 'days' } as const;
    expect(evaluate(did(period), asking(at(monday - 47 * HOUR), { now: monday }))).toBe(true);
    expect(evaluate(did(period), asking(at(monday - 47 * HOUR - 1), { now: monday }))).toBe(false);
  });
  test('ever: long before entry too; but never what has not happened yet', () => {
    expect(evaluate(did({ kind: 'ever' }), asking(at(0)))).toBe(true);
    expect(evaluate(did({ kind: 'ever' }), asking(at(NOON + 1)))).toBe(false);
  });
  test('with a filter: only an event whose payload fits, nested fields by their path', () => {
    const where: FieldTest[] = [{ field: 'ship.country', op: 'is', value: 'PT' }];
    expect(evaluate(did({ kind: 'ever' }, where), asking(at(NOON, { ship: { country: 'pt' } })))).toBe(true);
    expect(evaluate(did({ kind: 'ever' }, where), asking(at(NOON, { ship: null })))).toBe(false);
    expect(matchingEvent(did({ kind: 'ever' }, where), asking(at(NOON)))).toBeUndefined();
  });
  test('an email of the sequence: a click counts as an open (the trade’s rule, as in “Numbers”)', () => {
    const opened: Condition = { kind: 'email', step: 'a', what: 'opened', did: true };
    const emails = (openedAt: number | null, clickedAt: number | null) =>
      asking(facts({}, { emails: { a: { sentAt: NOON - HOUR, openedAt, clickedAt } } }));
    expect(evaluate(opened, emails(NOON - 1, null))).toBe(true);
    expect(evaluate(opened, emails(null, NOON - 1))).toBe(true);
    expect(evaluate(opened, emails(null, null))).toBe(false);
    expect(evaluate(opened, emails(NOON + 1, null))).toBe(false);
    expect(evaluate({ ...opened, did: false }, asking(facts()))).toBe(true);
    expect(evaluate({ ...opened, what: 'clicked' }, emails(NOON - 1, null))).toBe(false);
  });
  test('on a list means confirmed: pending and left are not on it', () => {
    const on: Condition = { kind: 'list', list: 'club', on: true };
    for (const [state, expected] of [
      ['confirmed', true],
      ['pending', false],
      ['left', false],
    ] as const)
      expect(evaluate(on, asking(facts({ lists: { club: state } })))).toBe(expected);
  });
});

const world: SampleWorld = {
  tags: ['kit-owner', 'teacher'],
  lists: ['letters', 'club'],
  segments: ['regulars', 'gone'],
  offers: ['kit', 'gone'],
  sequences: ['welcome'],
  links: ['foldwell.example'],
  events: ['order.paid'],
  steps: ['a', 'b'],
  attributes: ['skill', 'orders'],
  payload: ['total'],
  values: ['new', 2, true],
  dates: ['2026-03-06'],
};
const condition = randomCondition(world);
const person = fc.record({
  tags: fc.subarray(['kit-owner', 'teacher']),
  lists: fc.constantFrom<Record<string, MembershipState>>({}, { club: 'confirmed' }, { letters: 'left' }),
  attributes: fc.constantFrom<Record<string, string | number>>({}, { skill: 'new' }, { orders: 3, skill: 'seasoned' }),
});

group('random conditions on random people', () => {
  test('“not”, “all” and “any” keep the laws of logic (De Morgan)', () => {
    fc.assert(
      fc.property(condition, condition, person, (a, b, p) => {
        const q = asking(facts(p, { events: [event('order.paid', NOON - HOUR)] }));
        const is = (c: Condition) => evaluate(c, q);
        expect(is({ kind: 'not', of: { kind: 'all', of: [a, b] } })).toBe(
          is({
            kind: 'any',
            of: [
              { kind: 'not', of: a },
              { kind: 'not', of: b },
            ],
          }),
        );
        expect(is({ kind: 'not', of: { kind: 'not', of: a } })).toBe(is(a));
        expect(is({ kind: 'all', of: [] })).toBe(true);
        expect(is({ kind: 'any', of: [] })).toBe(false);
      }),
      { numRuns: 1000 },
    );
  });

  test('every kind of question is among them', () => {
    const seen = new Set(fc.sample(randomAtom(world), 1000).map((a) => a.kind));
    expect([...seen].sort()).toEqual(Object.keys(atomKinds).sort());
  });

  test('one that is about things not there is told as open, one that is about what is there is not', () => {
    const ids = (of: readonly string[]) => new Set(of);
    const all = {
      steps: ids(world.steps),
      segments: ids(world.segments),
      offers: ids(world.offers),
      sequences: ids(world.sequences),
    };
    const none = { steps: ids([]), segments: ids([]), offers: ids([]), sequences: ids([]) };
    fc.assert(
      fc.property(randomAtom(world), (atom) => {
        expect(kindOfAtom(atom).isOpen(atom, all)).toBe(false);
        const { steps, segments, offers, sequences } = askedByAtoms([atom]);
        expect(kindOfAtom(atom).isOpen(atom, none)).toBe([...steps, ...segments, ...offers, ...sequences].length > 0);
      }),
    );
  });

  test('what a question asks for is enough to answer it', () => {
    const all = facts(
      {
        tags: ['teacher'],
        lists: { club: 'confirmed' },
        attributes: { skill: 'new' },
        joined: { club: { at: NOON - DAY, how: 'form' } },
      },
      {
        mail: [
          {
            sentAt: NOON - DAY,
            openedAt: NOON - HOUR,
            clickedAt: NOON - 1,
            clicks: [{ at: NOON - 1, address: 'https://foldwell.example', words: 'foldwell.example' }],
          },
        ],
        sequences: { welcome: { inside: true, ended: true, goal: true } },
        events: [event('order.paid', NOON - HOUR, { total: 2 })],
        emails: { a: { sentAt: NOON - HOUR, openedAt: NOON - 1, clickedAt: NOON - 1, links: { x: NOON - 1 } } },
        segments: { regulars: { kind: 'tag', tag: 'teacher', has: true } as Condition },
      },
    );
    fc.assert(
      fc.property(randomAtom(world), (atom) => {
        const asks = askedByAtoms([atom]);
        const some = {
          person: {
            ...all.person,
            lists: asks.lists ? all.person.lists : {},
            joined: asks.joined ? all.person.joined : undefined,
          },
          mail: asks.mail ? all.mail?.map((m) => ({ ...m, clicks: asks.mailLinks ? m.clicks : undefined })) : undefined,
          sequences: asks.sequences.length > 0 ? all.sequences : undefined,
          events: all.events.filter((e) => asks.events.includes(e.name)),
          emails: asks.emails ? all.emails : {},
          segments: asks.segments.length > 0 ? all.segments : undefined,
        };
        expect(evaluate(atom, asking(some as typeof all))).toBe(evaluate(atom, asking(all)));
      }),
      { numRuns: 1000 },
    );
  });

  test('every one has a sentence, survives being saved, and is accepted by its schema', () => {
    fc.assert(
      fc.property(condition, (c) => {
        const words = describe(c, plainNames);
        expect(words.length).toBeGreaterThan(0);
        expect(words).not.toMatch(/undefined|null|\[object/);
        const saved: unknown = JSON.parse(JSON.stringify(c));
        expect(conditionSchema.parse(saved)).toEqual(saved);
      }),
      { numRuns: 500 },
    );
  });
});
