import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  atomKinds,
  evaluate,
  factsAbout,
  heldSince,
  nextTurn,
  type AtomName,
  type Condition,
  type Facts,
  type SampleWorld,
} from '../src/audience/index.ts';
import type { Given, OfferFact } from '../src/offer/index.ts';
import { changesOf, instants, ZONES } from './edges.ts';
import { randomAtom, randomCondition } from './random-conditions.ts';
import { asking, DAY, HOUR } from './support.ts';

// The promise of `nextTurn`, said for every kind of question: while nothing happens, nobody's answer changes before it.

const FROM = Date.UTC(2026, 1, 1);
const NOW = Date.UTC(2026, 3, 15);
const LONGEST = 80 * 7 * DAY;

const world: SampleWorld = {
  tags: ['teacher'],
  lists: ['letters', 'club'],
  segments: ['seg'],
  offers: ['offer'],
  sequences: ['other'],
  links: ['foldwell.example', 'Read on'],
  events: ['order.paid', 'file.downloaded'],
  steps: ['one', 'two'],
  attributes: ['renews_on', 'town'],
  payload: ['total'],
  values: ['Porto', 3, true],
  dates: ['2026-03-01', '2026-04-16T09:00:00Z'],
};

/** What is known of somebody by `now`, everything at awkward instants; and the rule of a segment. */
function known(zone: string, now: number): fc.Arbitrary<Facts> {
  const past = instants(zone, FROM, now);
  const maybe = <T>(of: fc.Arbitrary<T>) => fc.option(of, { nil: null });
  const read = fc.tuple(past, maybe(past), maybe(past)).map(([sentAt, openedAt, clickedAt]) => ({
    sentAt,
    openedAt,
    clickedAt,
  }));
  const given = fc.tuple(past, maybe(instants(zone, FROM, now + 90 * DAY)), maybe(past));
  return fc
    .record({
      events: fc.array(fc.tuple(fc.constantFrom(...world.events), past, fc.integer({ min: 0, max: 4 })), {
        maxLength: 4,
      }),
      joined: fc.array(fc.tuple(fc.constantFrom(...world.lists), past), { maxLength: 2 }),
      mail: fc.array(read, { maxLength: 3 }),
      one: maybe(read),
      offer: maybe(given),
      renews: fc.constantFrom('2026-04-16', '2026-04-15', '1990-02-28', '2027-02-28', 'soon'),
      rule: randomAtom(
        world,
        (Object.keys(atomKinds) as AtomName[]).filter((k) => k !== 'segment'),
      ),
    })
    .map((of) =>
      factsAbout(
        {
          zone,
          attributes: { renews_on: of.renews, town: 'Porto' },
          tags: ['teacher'],
          lists: Object.fromEntries(of.joined.map(([list]) => [list, 'confirmed' as const])),
          joined: Object.fromEntries(of.joined.map(([list, at]) => [list, { at, how: 'form' as const }])),
        },
        {
          segments: { seg: of.rule },
          events: of.events.map(([name, at, total]) => ({ name, at, payload: { total } })),
          mail: of.mail.map((m) => ({
            ...m,
            clicks:
              m.clickedAt === null ? [] : [{ at: m.clickedAt, address: 'https://foldwell.example/', words: 'Read on' }],
          })),
          emails: of.one ? { one: of.one } : {},
          sequences: { other: { inside: true, ended: false, goal: false } },
          offers:
            of.offer === null
              ? {}
              : {
                  offer: {
                    given: { openedAt: of.offer[0], closesAt: of.offer[1], usedAt: of.offer[2] } as Given,
                    stock: true,
                  } as OfferFact,
                },
        },
      ),
    );
}

const somebody = fc
  .constantFrom(...ZONES)
  .chain((zone) => fc.tuple(fc.constant(zone), instants(zone, NOW - 40 * DAY, NOW)))
  .chain(([zone, now]) => fc.tuple(fc.constant(zone), fc.constant(now), known(zone, now)));

/** Moments after `now` and before its next turn, the awkward ones among them. */
const before = (zone: string, now: number, turn: number): fc.Arbitrary<number> => {
  const until = Math.min(turn, now + LONGEST + 2 * DAY) - 1;
  return until <= now ? fc.constant(now) : fc.oneof(fc.constant(until), instants(zone, now, until));
};

const constant = (condition: Condition, [zone, now, facts]: [string, number, Facts], pick: fc.GeneratorValue) => {
  const at = (t: number) =>
    evaluate(condition, asking(facts, { now: t, enteredAt: FROM, stepTimes: { one: FROM + DAY } }));
  const turn = nextTurn(condition, asking(facts, { now, enteredAt: FROM, stepTimes: { one: FROM + DAY } }));
  expect(turn).toBeGreaterThan(now);
  for (let i = 0; i < 6; i++) {
    const t = pick(before, zone, now, turn);
    expect([t, at(t)]).toEqual([t, at(now)]);
  }
};

test.each(Object.keys(atomKinds) as AtomName[])(
  'the answer to a question of the kind “%s” is the same up to its next turn',
  (kind) => {
    fc.assert(
      fc.property(randomAtom(world, [kind]), somebody, fc.gen(), (atom, who, pick) => constant(atom, who, pick)),
      { numRuns: 400 },
    );
  },
);

test('so is the answer to questions that are joined', () => {
  fc.assert(
    fc.property(randomCondition(world), somebody, fc.gen(), (condition, who, pick) => constant(condition, who, pick)),
    { numRuns: 600 },
  );
});

test('a period that ends over a change of the clocks is looked at when it ends, not an hour beside it', () => {
  for (const zone of ZONES)
    for (const change of changesOf(zone, FROM, NOW))
      for (const by of [-1, 0, 1, 17 * 60_000, -17 * 60_000]) {
        const done = change - DAY + by;
        const facts = factsAbout({ zone }, { events: [{ name: 'order.paid', at: done, payload: {} }] });
        const asks = (unit: 'days' | 'hours', amount: number): Condition =>
          ({
            kind: 'event',
            event: 'order.paid',
            done: true,
            where: [],
            since: { kind: 'period', amount, unit },
          }) satisfies Condition;
        for (const condition of [asks('days', 1), asks('hours', 24)]) {
          const holds = (t: number) => evaluate(condition, asking(facts, { now: t }));
          // Followed from turn to turn, the answer is known at every millisecond around its end.
          let now = done;
          for (let i = 0; i < 12 && now < done + 3 * DAY; i++) {
            const turn = nextTurn(condition, asking(facts, { now }));
            if (turn === Infinity) break;
            expect(holds(turn - 1)).toBe(holds(now));
            now = turn;
          }
          expect(holds(now)).toBe(false);
        }
      }
});

test('since when what is joined holds: all since the last of them, one of several since the first, nothing where one is not known', () => {
  const at = (hours: number): Condition =>
    ({ kind: 'event', event: `e${hours}`, done: true, where: [], since: { kind: 'ever' } }) satisfies Condition;
  const tag: Condition = { kind: 'tag', tag: 'teacher', has: true } satisfies Condition;
  const facts = factsAbout(
    { tags: ['teacher'] },
    { events: [1, 2, 3].map((h) => ({ name: `e${h}`, at: FROM + h * HOUR, payload: {} })) },
  );
  const since = (condition: Condition) => heldSince(condition, asking(facts, { now: NOW }));
  expect(since({ kind: 'all', of: [at(1), at(3), at(2)] })).toBe(FROM + 3 * HOUR);
  expect(since({ kind: 'any', of: [at(3), at(1), at(2)] })).toBe(FROM + HOUR);
  // One that does not hold says nothing of when the others did.
  expect(since({ kind: 'any', of: [at(9), at(2)] })).toBe(FROM + 2 * HOUR);
  expect(since({ kind: 'all', of: [at(1), tag] })).toBeNull();
  expect(since({ kind: 'any', of: [at(1), tag] })).toBeNull();
  expect(since({ kind: 'all', of: [] })).toBeNull();
  expect(since({ kind: 'any', of: [at(9)] })).toBeNull();
  expect(since({ kind: 'not', of: at(1) })).toBeNull();
});
