import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Condition, Facts } from '../src/audience/index.ts';
import { advance, armsOf, enter, prepare, walk, type Step } from '../src/sequence/index.ts';
import { branchStep, DAY, emailStep, event, facts, HOUR, id, live, NOON, sequence, waitStep } from './support.ts';

const leave = (): Step => ({ id: id(), on: true, note: '', kind: 'leave' });

describe('where a person goes', () => {
  test('arms come back together after a branch, unless one leaves', () => {
    const [a, b, after] = [emailStep('A'), emailStep('B'), emailStep('After')];
    const teacher: Condition = { kind: 'tag', tag: 'teacher', has: true };
    const joined = sequence([branchStep(teacher, [a], [b]), after]);
    expect(live(joined, facts({ tags: ['teacher'] })).sends.map((s) => s.step)).toEqual([a.id, after.id]);
    expect(live(joined, facts()).sends.map((s) => s.step)).toEqual([b.id, after.id]);
    const left = sequence([branchStep(teacher, [a, leave()], [b]), after]);
    expect(live(left, facts({ tags: ['teacher'] })).sends.map((s) => s.step)).toEqual([a.id]);
  });

  test('an empty arm, and a branch at the very end, lead on', () => {
    const after = emailStep('After');
    const teacher: Condition = { kind: 'tag', tag: 'teacher', has: true };
    expect(live(sequence([branchStep(teacher, [], []), after]), facts()).sends).toHaveLength(1);
    expect(live(sequence([emailStep('First'), branchStep(teacher, [], [])]), facts()).visit.status).toBe('done');
  });

  test('a step that is switched off is passed over, with its reason told', () => {
    const off = emailStep('Off', { on: false });
    const { sends, trace } = live(sequence([off, emailStep('On')]), facts());
    expect(sends).toHaveLength(1);
    expect(trace.find((t) => t.step === off.id)?.code).toBe('step-off');
  });

  test('an email’s own tag and points are added at the moment it is decided', () => {
    const run = prepare(sequence([emailStep('Guide', { thenTag: 'stitch-guide', thenPoints: 10 })]));
    const { effects } = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);
    const step = run.sequence.steps[0]?.id;
    expect(effects).toContainEqual({ kind: 'tag', step, tag: 'stitch-guide', add: true });
    expect(effects).toContainEqual({ kind: 'points', step, points: 10 });
  });
});

describe('when', () => {
  test('the Friday example: Mon to Fri 8:00 to 18:00, two days after a Thursday noon, is Monday at 8:00 (common practice, no published source)', () => {
    const thursday = Date.UTC(2026, 2, 5, 12);
    const email = emailStep('Weekdays', { window: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 } });
    const run = prepare(sequence([waitStep(2), email]));
    const first = advance(enter('v', 'q', 1, run, thursday, {}), run, facts(), thursday);
    const second = advance(first.visit, run, facts(), first.visit.dueAt);
    expect(new Date(second.visit.dueAt).toISOString()).toBe('2026-03-09T08:00:00.000Z');
    expect(second.trace.at(-1)).toMatchObject({ code: 'email-held', data: { zone: 'Europe/Lisbon' } });
    const third = advance(second.visit, run, facts(), second.visit.dueAt);
    expect(third.effects).toMatchObject([{ kind: 'send', dueAt: Date.UTC(2026, 2, 9, 8) }]);
  });

  test('a wait counts from the decided moment of the email before it, not from when it was handed over', () => {
    const doc = sequence([emailStep('A'), waitStep(1), emailStep('B')]);
    expect(live(doc, facts()).sends.map((s) => s.at)).toEqual([NOON, NOON + DAY]);
  });

  test('a wait of 0 is none', () => {
    expect(live(sequence([waitStep(0), emailStep('A')]), facts()).sends[0]?.at).toBe(NOON);
  });

  test('a move to another zone shifts only what has not been reckoned', () => {
    const doc = sequence([waitStep(1), waitStep(1), emailStep('A')]);
    // In Tokyo from the second day on: the first wait stays, the second keeps Tokyo's wall time.
    const { sends } = live(doc, (now) => facts({ zone: now > NOON ? 'Asia/Tokyo' : 'Europe/Lisbon' }));
    expect(sends[0]?.at).toBe(NOON + 2 * DAY);
  });
});

describe('a wait for what comes about with time alone', () => {
  const quiet = (days: number): Condition => ({
    kind: 'event',
    event: 'lesson.opened',
    done: false,
    since: { kind: 'period', amount: days, unit: 'days' },
    where: [],
  });
  const untilStep = (condition: Condition): Step => ({
    id: 'until',
    on: true,
    note: '',
    kind: 'until',
    name: '',
    condition,
    amount: 20,
    unit: 'days',
    arms: [
      { id: 'yes', steps: [emailStep('Quiet', { id: 'quiet' })] },
      { id: 'no', steps: [] },
    ],
  });
  const opened = (at: number) => event('lesson.opened', at);

  test('goes on the moment it is so, though nothing happens: two days after the last lesson was opened', () => {
    const doc = sequence([untilStep(quiet(2))]);
    const known = (now: number) =>
      facts({}, { events: [opened(NOON - HOUR), opened(NOON + DAY)].filter((e) => e.at <= now) });
    // The second lesson wakes nobody here: it is seen when the first has grown old.
    const { sends, trace } = live(doc, known);
    expect(sends).toEqual([{ step: 'quiet', at: NOON + 3 * DAY + 1 }]);
    expect(trace.filter((t) => t.code === 'until-begun')).toHaveLength(1);
  });

  test('over a change of clocks too, by the wall clock of the person', () => {
    // Lisbon went to summer time on 29 March 2026, 1:00 UTC: two days after Friday noon is Sunday noon, 47 hours later.
    const friday = Date.UTC(2026, 2, 27, 12);
    const run = prepare(sequence([untilStep(quiet(2))]));
    const known = facts({}, { events: [opened(friday)] });
    let { visit } = advance(enter('v', 'q', 1, run, friday, {}), run, known, friday);
    while (visit.status === 'active' && visit.dueAt < friday + 10 * DAY)
      ({ visit } = advance(visit, run, known, visit.dueAt));
    expect(visit.arrivedAt).toBe(friday + 47 * HOUR + 1);
  });

  test('a segment’s rule, and an offer that closes, count as well', () => {
    const inSegment = sequence([untilStep({ kind: 'segment', segment: 'quiet', in: true })]);
    const rule = facts({}, { events: [opened(NOON)], segments: { quiet: quiet(1) } });
    expect(live(inSegment, rule).sends).toEqual([{ step: 'quiet', at: NOON + DAY + 1 }]);
    const given = { openedAt: NOON, closesAt: NOON + 5 * HOUR, code: null, usedAt: null };
    const closed: Condition = {
      kind: 'offer',
      offer: 'kit',
      state: 'closed',
      within: { amount: 1, unit: 'hours' },
      is: true,
    };
    const closing: Condition = { ...closed, state: 'closing' };
    const known = facts({}, { offers: { kit: { offer: {} as never, given, stock: true } } });
    expect(live(sequence([untilStep(closed)]), known).sends).toEqual([{ step: 'quiet', at: NOON + 5 * HOUR }]);
    expect(live(sequence([untilStep(closing)]), known).sends).toEqual([{ step: 'quiet', at: NOON + 4 * HOUR }]);
  });
});

const split = (weights: number[], lists: Step[][]): Step => ({
  id: id(),
  on: true,
  note: '',
  kind: 'split',
  name: '',
  arms: weights.map((weight, i) => ({ id: id(), weight, steps: lists[i] ?? [] })),
});
const until = (condition: Condition, amount: number, yes: Step[], no: Step[]): Step => ({
  id: id(),
  on: true,
  note: '',
  kind: 'until',
  name: '',
  condition,
  amount,
  unit: 'days',
  arms: [
    { id: id(), steps: yes },
    { id: id(), steps: no },
  ],
});

describe('a split', () => {
  test('gives every arm its share of 20,000 people, and one person the same arm every time', () => {
    const lists = [[emailStep('A')], [emailStep('B')], [emailStep('C')]];
    const doc = sequence([split([50, 30, 20], lists)]);
    const counts = new Map<string, number>();
    const of = (n: number) => live(doc, facts({ id: `person-${n}` })).sends[0]?.step ?? '';
    for (let n = 0; n < 20_000; n++) counts.set(of(n), (counts.get(of(n)) ?? 0) + 1);
    const seen = lists.map(([e]) => (counts.get((e as Step).id) ?? 0) / 20_000);
    // Four standard errors of a share over 20,000 people are at most 1.4 points.
    [0.5, 0.3, 0.2].forEach((share, i) => expect(Math.abs((seen[i] ?? 0) - share)).toBeLessThan(0.0142));
  });

  test('gives nobody to an arm whose share is 0, wherever it stands', () => {
    const lists = [[emailStep('A')], [emailStep('B')], [emailStep('C')]];
    const doc = sequence([split([0, 7, 0], lists)]);
    const taken = new Set(Array.from({ length: 2_000 }, (_, n) => live(doc, facts({ id: `q${n}` })).sends[0]?.step));
    expect([...taken]).toEqual([lists[1]?.[0]?.id]);
  });

  test('two splits in one sequence do not decide for each other', () => {
    const doc = sequence([split([1, 1], [[emailStep('A')], []]), split([1, 1], [[emailStep('B')], []])]);
    const both = [0, 0, 0, 0];
    for (let n = 0; n < 4_000; n++) {
      const names = new Set(live(doc, facts({ id: `p${n}` })).sends.map((s) => s.step));
      const steps = walk(doc)
        .filter((v) => v.step.kind === 'email')
        .map((v) => v.step.id);
      const at = (names.has(steps[0] ?? '') ? 2 : 0) + (names.has(steps[1] ?? '') ? 1 : 0);
      both[at] = (both[at] ?? 0) + 1;
    }
    for (const n of both) expect(Math.abs(n - 1_000)).toBeLessThan(120);
  });
});

describe('a split that decides itself', () => {
  const [a, b] = [emailStep('A'), emailStep('B')];
  const tested = {
    ...split([1, 1], [[a], [b]]),
    rule: { measure: 'clicked', first: 25, after: { amount: 4, unit: 'hours' } },
  } as Step;
  const run = prepare(sequence([tested]));
  const arm = (i: number) => armsOf(tested)[i]?.id ?? '';
  const come = (n: number, tests: Facts['tests'], at = NOON) => {
    const known = { ...facts({ id: `t${n}` }), ...(tests ? { tests } : {}) };
    return advance(enter('v', 'q', 1, run, at, {}), run, known, at);
  };
  const none = { [tested.id]: { arm: null, decidesAt: null } };

  test('a part takes part by lot, the others wait as long as it says, or until it is decided', () => {
    const all = Array.from({ length: 4_000 }, (_, n) => come(n, none));
    const waiting = all.filter((r) => r.visit.status === 'active');
    // Three standard errors of a share of 4,000 are at most 2.1 points.
    expect(Math.abs(waiting.length / 4_000 - 0.75)).toBeLessThan(0.021);
    for (const { visit } of waiting) expect(visit.dueAt).toBe(NOON + 4 * HOUR);
    const sent = all.flatMap((r) => r.effects.flatMap((e) => (e.kind === 'send' ? [e.step] : [])));
    expect(Math.abs(sent.filter((s) => s === a.id).length / sent.length - 0.5)).toBeLessThan(0.048);
    // Begun an hour ago by somebody else: three hours are left.
    const n = all.findIndex((r) => r.visit.status === 'active');
    const later = come(n, { [tested.id]: { arm: null, decidesAt: NOON + 3 * HOUR } });
    expect(later.visit.dueAt).toBe(NOON + 3 * HOUR);
    expect(later.trace.map((t) => t.code)).toEqual(['split-waits']);
    // Not decided though its time has come: nobody is sent either of them.
    const late = advance(later.visit, run, { ...facts({ id: `t${n}` }), tests: none }, NOON + 3 * HOUR);
    expect(late.effects).toEqual([]);
    expect(late.visit.dueAt).toBeGreaterThan(NOON + 3 * HOUR);
  });

  test('decided, everybody takes that arm, also those who waited', () => {
    const decided = { [tested.id]: { arm: arm(1), decidesAt: null } };
    for (let n = 0; n < 200; n++)
      expect(come(n, decided).effects).toEqual([expect.objectContaining({ kind: 'send', step: b.id })]);
    const waits = Array.from({ length: 200 }, (_, n) => n).find((n) => come(n, none).visit.status === 'active') ?? 0;
    const { visit } = come(waits, none);
    const on = advance(
      { ...visit, dueAt: NOON + HOUR },
      run,
      { ...facts({ id: `t${waits}` }), tests: decided },
      NOON + HOUR,
    );
    expect(on.effects).toEqual([{ kind: 'send', step: b.id, dueAt: NOON + HOUR }]);
    expect(on.trace[0]).toMatchObject({ code: 'split-taken', data: { arm: arm(1), decided: true } });
  });

  test('where nobody decides, as in a rehearsal, they wait and take an arm by lot', () => {
    const waits = Array.from({ length: 200 }, (_, n) => n).find((n) => come(n, none).visit.status === 'active') ?? 0;
    const begun = come(waits, undefined);
    expect(begun.visit.dueAt).toBe(NOON + 4 * HOUR);
    const on = advance(begun.visit, run, facts({ id: `t${waits}` }), NOON + 4 * HOUR);
    expect(on.effects).toHaveLength(1);
    expect(on.visit.status).toBe('done');
  });

  test('decided for an arm that their version does not have, they take one by lot at once', () => {
    const gone = { [tested.id]: { arm: 'gone', decidesAt: null } };
    for (let n = 0; n < 100; n++) expect(come(n, gone).effects).toHaveLength(1);
  });
});

describe('waiting until something happens', () => {
  const opened: Condition = { kind: 'event', event: 'lesson.opened', done: true, since: { kind: 'entry' }, where: [] };
  const [yes, no, after] = [emailStep('Yes'), emailStep('No'), emailStep('After')];
  const doc = sequence([until(opened, 2, [yes], [no]), after]);
  const run = prepare(doc);
  const begin = () => advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);

  test('goes on at the very moment it happens, and waits count from there', () => {
    const waiting = begin();
    expect(waiting.visit.dueAt).toBe(NOON + 2 * DAY);
    expect(waiting.trace.at(-1)?.code).toBe('until-begun');
    const known = facts({}, { events: [event('lesson.opened', NOON + HOUR)] });
    const went = advance(waiting.visit, run, known, NOON + HOUR);
    expect(went.effects).toMatchObject([
      { step: yes.id, dueAt: NOON + HOUR },
      { step: after.id, dueAt: NOON + HOUR },
    ]);
    expect(went.trace[0]).toMatchObject({ code: 'until-happened', data: { event: 'lesson.opened', at: NOON + HOUR } });
  });

  test('takes the other arm when the time is over, and not before', () => {
    expect(live(doc, facts()).sends).toEqual([
      { step: no.id, at: NOON + 2 * DAY },
      { step: after.id, at: NOON + 2 * DAY },
    ]);
  });

  test('who is woken by something else goes on waiting, to the same moment', () => {
    const waiting = begin();
    const known = facts({}, { events: [event('item.viewed', NOON + HOUR)] });
    expect(advance(waiting.visit, run, known, NOON + HOUR)).toMatchObject({
      visit: waiting.visit,
      effects: [],
      trace: [],
    });
  });

  test('who did it before getting there goes on at once', () => {
    const early = sequence([waitStep(1), until(opened, 2, [yes], [no])]);
    const known = (now: number) => facts({}, { events: now > NOON ? [event('lesson.opened', NOON + HOUR)] : [] });
    expect(live(early, known).sends).toEqual([{ step: yes.id, at: NOON + DAY }]);
  });
});

/** A random plan: emails, waits, branches, splits, waits for something and leaves, nested. */
const steps: fc.Arbitrary<Step[]> = fc.letrec<{ list: Step[] }>((tie) => ({
  list: fc.array(
    fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      fc
        .record({ on: fc.boolean(), from: fc.constantFrom(0, 480, 1320), windowed: fc.boolean() })
        .map(({ on, from, windowed }): Step =>
          emailStep('E', {
            on,
            window: windowed ? { days: [1, 3, 5], from, to: from === 0 ? 1440 : (from + 600) % 1440 } : null,
          }),
        ),
      fc
        .record({
          amount: fc.nat(20),
          unit: fc.constantFrom('minutes' as const, 'hours' as const, 'days' as const, 'weeks' as const),
        })
        .map(({ amount, unit }): Step => waitStep(amount, unit)),
      fc.constant(null).map(leave),
      fc
        .tuple(fc.boolean(), tie('list'), tie('list'))
        .map(([has, a, b]) => branchStep({ kind: 'tag', tag: 'teacher', has }, a, b)),
      fc.tuple(fc.nat(9), tie('list'), tie('list')).map(([w, a, b]) => split([w + 1, 5], [a, b])),
      fc
        .tuple(fc.boolean(), fc.nat(9), tie('list'), tie('list'))
        .map(([has, n, a, b]) => until({ kind: 'tag', tag: 'teacher', has }, n, a, b)),
    ),
    { maxLength: 5 },
  ),
})).list;
const zones = fc.constantFrom(
  'Europe/Lisbon',
  'America/New_York',
  'Asia/Kolkata',
  'Australia/Lord_Howe',
  'Pacific/Auckland',
);

describe('random plans', () => {
  test('end for everybody, never send a step twice, and send in the order of the plan', () => {
    fc.assert(
      fc.property(steps, zones, fc.subarray(['teacher']), (list, zone, tags) => {
        const doc = sequence(list);
        const { visit, sends } = live(doc, facts({ zone, tags }), Infinity);
        expect(visit).toMatchObject({ status: 'done', step: null });
        expect(new Set(sends.map((s) => s.step)).size).toBe(sends.length);
        expect(sends.map((s) => s.at)).toEqual(sends.map((s) => s.at).sort((a, b) => a - b));
        const order = walk(doc).map((v) => v.step.id);
        const places = sends.map((s) => order.indexOf(s.step));
        expect(places).toEqual([...places].sort((a, b) => a - b));
      }),
      { numRuns: 400 },
    );
  });

  test('a lag of less than an hour at every step changes no moment; the function keeps its arguments and is repeatable', () => {
    fc.assert(
      fc.property(steps, zones, fc.infiniteStream(fc.nat(HOUR)), (list, zone, lags) => {
        const doc = sequence(list);
        const run = prepare(doc);
        const person = facts({ zone });
        const on_time = live(doc, person, Infinity).sends;
        let visit = enter('v', 'q', 1, run, NOON, {});
        const late: typeof on_time = [];
        for (const lag of lags) {
          if (visit.status === 'done') break;
          const before = JSON.stringify(visit);
          const done = advance(visit, run, person, visit.dueAt + lag);
          expect(JSON.stringify(visit)).toBe(before);
          expect(advance(visit, run, person, visit.dueAt + lag)).toEqual(done);
          for (const e of done.effects) if (e.kind === 'send') late.push({ step: e.step, at: e.dueAt });
          visit = done.visit;
        }
        expect(late).toEqual(on_time);
      }),
      { numRuns: 200 },
    );
  });
});
