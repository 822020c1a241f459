import { describe, expect, test } from 'vitest';
import { advance, enter, nextEmailAt, prepare, yieldsTo } from '../src/sequence/index.ts';
import { rehearse, together } from '../src/rehearsal/index.ts';
import { zoneOf } from '../src/time/index.ts';
import { DAY, emailStep, facts, HOUR, NOON, sequence, waitStep } from './support.ts';

// Who goes on a day, written by hand. NOON is noon in Lisbon of one day; `at` is hours from there.
const LISBON = zoneOf('Europe/Lisbon');
const today = Math.floor(NOON / DAY);
const [first, high, ordinary, low, last] = [1, 2, 3, 4, 5] as const;
type Other = [priority: number, at: number, exempt?: 'exempt'];

describe('the places of a day', () => {
  const cases: [what: string, cap: number | null, gone: number, own: number, others: Other[], gives: string | null][] =
    [
      ['no cap: nothing waits, whoever comes later that day', null, 9, ordinary, [[first, 3]], null],
      ['nothing gone, nobody else', 1, 0, last, [], null],
      ['as many as the cap have gone', 2, 2, first, [], 'cap'],
      ['one place of two is left, and nobody goes first', 2, 1, last, [], null],
      ['one place of two is left, for the ordinary one that comes in an hour', 2, 1, last, [[ordinary, 1]], 'priority'],
      [
        'two places of two: the last of three waits',
        2,
        0,
        last,
        [
          [ordinary, 1],
          [first, 3],
        ],
        'priority',
      ],
      [
        'two places of two: the ordinary one of three goes',
        2,
        0,
        ordinary,
        [
          [first, 3],
          [last, 0],
        ],
        null,
      ],
      [
        'a first one that was due an hour ago and has not been looked at holds its place',
        1,
        0,
        low,
        [[first, -1]],
        'priority',
      ],
      ['one that was due yesterday and waits still goes today', 1, 0, low, [[first, -20]], 'priority'],
      ['one of tomorrow holds no place of today', 1, 0, low, [[first, 13]], null],
      ['among equals the one that is due has the place', 1, 0, ordinary, [[ordinary, 1]], null],
      ['a lower one holds no place before a higher', 1, 0, high, [[low, -1]], null],
      ['one outside the cap takes no place of those to come', 1, 0, low, [[first, 2, 'exempt']], null],
    ];
  test.each(cases)('%s', (_, cap, gone, own, others, gives) => {
    const mailing = {
      cap,
      given: { [today]: gone },
      others: others.map(([priority, at, exempt], i) => ({
        priority,
        at: NOON + at * HOUR,
        exempt: exempt !== undefined,
        sequence: `s${i}`,
      })),
    };
    expect(yieldsTo({ exempt: false, priority: own }, mailing, LISBON, NOON)?.why ?? null).toBe(gives);
    expect(yieldsTo({ exempt: true, priority: own }, mailing, LISBON, NOON)).toBeNull();
  });

  test('it is told for whom: the one that goes before all others', () => {
    const others = [
      { priority: high, at: NOON + HOUR, exempt: false, sequence: 'course' },
      { priority: first, at: NOON + 3 * HOUR, exempt: false, sequence: 'receipt' },
    ];
    expect(yieldsTo({ exempt: false, priority: last }, { cap: 1, given: {}, others }, LISBON, NOON)).toEqual({
      why: 'priority',
      sequence: 'receipt',
    });
  });
});

describe('what a place says of the next email', () => {
  const at = (steps: Parameters<typeof sequence>[0]) => {
    const run = prepare(sequence(steps));
    const { visit } = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);
    return nextEmailAt(run, visit, LISBON);
  };
  const window = { days: [1, 2, 3, 4, 5, 6, 7], from: 480, to: 540 };
  test('a wait with the email behind it, past what is switched off; its window is asked; a second wait says nothing', () => {
    const off = { ...emailStep('off'), on: false };
    expect(at([waitStep(6, 'hours'), emailStep('A')])).toBe(NOON + 6 * HOUR);
    expect(at([waitStep(6, 'hours'), off, emailStep('A')])).toBe(NOON + 6 * HOUR);
    // Eight in the morning of the next day, in Lisbon: twenty hours after noon.
    expect(at([waitStep(6, 'hours'), emailStep('A', { window })])).toBe(NOON + 20 * HOUR);
    expect(at([waitStep(6, 'hours'), off, waitStep(1), emailStep('A')])).toBeNull();
  });
});

describe('rehearsal and forecast keep to the same day', () => {
  const cap = (priority: number) => ({ exempt: false, priority, yields: 'later' as const });
  test('two emails of one day under a cap of one: the second is rehearsed a day later', () => {
    const doc = sequence([emailStep('A'), waitStep(2, 'hours'), emailStep('B')]);
    const said = (limit: number | null) =>
      rehearse({
        sequence: doc,
        facts: facts(),
        at: NOON,
        entry: {},
        usually: { does: 'ignores' },
        emails: {},
        events: [],
        cap: limit,
      }).moments.flatMap((m) => (m.kind === 'email' ? [(m.at - NOON) / HOUR] : []));
    expect(said(null)).toEqual([0, 2]);
    expect(said(1)).toEqual([0, 26]);
  });

  test('three passages of one person, two a day, one gone today: in the order of their priority', () => {
    const passage = (name: string, priority: number, hours: number) => {
      const run = prepare(sequence([waitStep(hours, 'hours'), emailStep(name)], { cap: cap(priority) }));
      const { visit } = advance(enter(name, name, 1, run, NOON, {}), run, facts(), NOON);
      return { visit, run, facts: facts() };
    };
    const brought = together(
      [passage('last', 5, 1), passage('ordinary', 3, 2), passage('first', 1, 3)],
      { cap: 2, given: { [today]: 1 } },
      NOON,
      NOON + 5 * DAY,
    );
    expect(
      brought.flatMap((b) => (b.effect.kind === 'send' ? [[b.sequence, (b.effect.dueAt - NOON) / HOUR]] : [])),
    ).toEqual([
      ['first', 3],
      ['last', 25],
      ['ordinary', 26],
    ]);
  });
});
