import { describe, expect, test } from 'vitest';
import type { Condition, Facts } from '../src/audience/index.ts';
import { advance, enter, prepare, resumedByShift, type Sequence, type Step } from '../src/sequence/index.ts';
import { branchStep, DAY, emailStep, event, facts, HOUR, id, NOON, sequence, waitStep } from './support.ts';

// The table of docs/decisions/012: for each question, at which moment it is asked. Expected values come from the need.
const MINUTE = 60_000;
const order: Condition = { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] };
const run1 = (doc: Sequence) => prepare(doc);
const action = (act: Extract<Step, { kind: 'action' }>['action']): Step => ({
  id: id(),
  on: true,
  note: '',
  kind: 'action',
  action: act,
});
const sent = (effects: readonly { kind: string }[]) => effects.filter((e) => e.kind === 'send');

/** Entered at noon, standing at a wait of an hour, and looked at `lag` after it has ended. */
function afterTheWait(doc: Sequence, known: Facts, lag = 50 * MINUTE) {
  const run = run1(doc);
  const begun = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);
  expect(begun.visit.dueAt).toBe(NOON + HOUR);
  return { run, ...advance(begun.visit, run, known, NOON + HOUR + lag) };
}

describe('the schedule keeps its own time, what is known is of the present', () => {
  const b = emailStep('B');
  const plain = sequence([waitStep(1, 'hours'), emailStep('A'), waitStep(1), b], { goal: order });

  test('bought between the end of the wait and our look: nothing goes out, and the story says when we saw it', () => {
    const bought = facts({}, { events: [event('order.paid', NOON + HOUR + 30 * MINUTE)] });
    const { effects, visit, trace } = afterTheWait(plain, bought);
    expect(effects).toEqual([]);
    expect(visit.status).toBe('done');
    expect(trace).toMatchObject([{ code: 'goal-reached', at: NOON + HOUR + 50 * MINUTE }]);
  });

  test('left the list between the end of the wait and our look: nothing goes out', () => {
    const { effects, visit } = afterTheWait(plain, facts({ lists: { letters: 'left' } }));
    expect(effects).toEqual([]);
    expect(visit.status).toBe('done');
  });

  test('the waits behind still count from the moment that was planned', () => {
    const { effects, visit } = afterTheWait(plain, facts());
    expect(effects).toMatchObject([{ kind: 'send', dueAt: NOON + HOUR }]);
    expect(visit.dueAt).toBe(NOON + HOUR + DAY);
  });

  test.each<[string, (a: ReturnType<typeof emailStep>) => Step, string]>([
    ['is switched off', (a) => ({ ...a, on: false }), 'step-off'],
    ['is not for them', (a) => ({ ...a, forWhom: { kind: 'not', of: { kind: 'all', of: [] } } }), 'email-skipped'],
  ])('three days late, an email that %s moves nothing: what stands behind keeps its days', (_, made, code) => {
    const doc = sequence([waitStep(1, 'hours'), made(emailStep('A')), waitStep(5), b, waitStep(1), emailStep('C')]);
    const { run, effects, visit, trace } = afterTheWait(doc, facts(), 3 * DAY);
    expect(effects).toEqual([]);
    expect(trace.map((t) => t.code)).toContain(code);
    expect(visit.dueAt).toBe(NOON + HOUR + 5 * DAY);
    // B in time; and looked at late again, it goes at the clock, and C counts from there.
    const late = advance(visit, run, facts(), NOON + HOUR + 5 * DAY + 2 * HOUR);
    expect(late.effects).toMatchObject([{ kind: 'send', dueAt: NOON + HOUR + 5 * DAY + 2 * HOUR }]);
    expect(late.visit.dueAt).toBe(NOON + HOUR + 6 * DAY + 2 * HOUR);
  });

  test('one that is left out for the day, or whose offer has closed, moves nothing either', () => {
    const doc = sequence([waitStep(1, 'hours'), emailStep('A'), waitStep(5), b], {
      cap: { exempt: false, priority: 3, yields: 'skip' },
    });
    const day = Math.floor((NOON + HOUR + 3 * DAY) / DAY);
    const full = facts({}, { mailing: { cap: 1, given: { [day]: 1 }, others: [] } });
    const { effects, visit } = afterTheWait(doc, full, 3 * DAY);
    expect(effects).toEqual([]);
    expect(visit.dueAt).toBe(NOON + HOUR + 5 * DAY);
  });

  test('waits that ended while nobody looked are gone through one after the other, each from where the last one ended', () => {
    const off = (): Step => ({ ...emailStep('A'), on: false });
    const doc = sequence([waitStep(1, 'hours'), off(), waitStep(1), off(), waitStep(1), emailStep('C')]);
    const clock = NOON + HOUR + 5 * DAY;
    const { run, ...begun } = afterTheWait(doc, facts(), 5 * DAY);
    let { visit, effects } = begun;
    const dues = [visit.dueAt];
    while (effects.length === 0) {
      ({ visit, effects } = advance(visit, run, facts(), clock));
      if (visit.status === 'active') dues.push(visit.dueAt);
    }
    expect(dues).toEqual([NOON + HOUR + DAY, NOON + HOUR + 2 * DAY]);
    expect(effects).toMatchObject([{ kind: 'send', dueAt: clock }]);
  });

  test('an awaited event that is told hours late: the wait behind it counts from when it happened, as in a rehearsal', () => {
    const until = {
      id: id(),
      on: true,
      note: '',
      kind: 'until' as const,
      name: '',
      condition: order,
      amount: 3,
      unit: 'days' as const,
      arms: [
        { id: id(), steps: [waitStep(2), emailStep('Thanks')] },
        { id: id(), steps: [] },
      ],
    } satisfies Step;
    const run = run1(sequence([until]));
    const begun = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);
    const happened = NOON + 4 * HOUR;
    const told = facts({}, { events: [event('order.paid', happened)] });
    for (const lag of [1, 59 * MINUTE, 61 * MINUTE, 20 * HOUR])
      expect([lag, advance(begun.visit, run, told, happened + lag).visit.dueAt]).toEqual([lag, happened + 2 * DAY]);
  });

  test('"for whom" is asked of what is known now; the next wait counts from the plan all the same', () => {
    const only = emailStep('A', { forWhom: { kind: 'not', of: order } });
    const doc = sequence([waitStep(1, 'hours'), only, waitStep(1), b]);
    const { effects, visit, trace } = afterTheWait(
      doc,
      facts({}, { events: [event('order.paid', NOON + HOUR + 30 * MINUTE)] }),
    );
    expect(effects).toEqual([]);
    expect(trace[0]).toMatchObject({ code: 'email-skipped', step: only.id });
    expect(visit.dueAt).toBe(NOON + HOUR + DAY);
  });

  test('a branch takes the arm of what is known now', () => {
    const [thanks, remind] = [emailStep('Thanks'), emailStep('Remind')];
    const doc = sequence([waitStep(1, 'hours'), branchStep(order, [thanks], [remind])]);
    const { effects } = afterTheWait(doc, facts({}, { events: [event('order.paid', NOON + HOUR + 30 * MINUTE)] }));
    expect(effects).toMatchObject([{ kind: 'send', step: thanks.id, dueAt: NOON + HOUR }]);
  });

  test('an offer that has closed between the plan and our look is closed', () => {
    const step = emailStep('A');
    step.email.offer = 'kit';
    const offer = {
      name: 'Kit',
      discount: null,
      codes: { kind: 'none' as const },
      deadline: {
        kind: 'after' as const,
        from: 'email' as const,
        event: '',
        amount: 2,
        unit: 'days' as const,
        minute: null,
      },
      empty: { kind: 'hold' as const },
      webhook: '',
    };
    const closes = NOON + HOUR + 20 * MINUTE;
    const given = { openedAt: NOON, closesAt: closes, code: null, usedAt: null };
    const known = facts({}, { offers: { kit: { offer: offer as never, given, stock: true } } });
    const { effects, trace } = afterTheWait(sequence([waitStep(1, 'hours'), step]), known);
    expect(sent(effects)).toEqual([]);
    expect(trace[0]?.code).toBe('offer-closed');
  });

  test('a wait for something that has happened goes on from when it happened, not from when we looked', () => {
    const [yes, no] = [emailStep('Yes'), emailStep('No')];
    const until: Step = {
      id: id(),
      on: true,
      note: '',
      kind: 'until',
      name: '',
      condition: order,
      amount: 2,
      unit: 'days',
      arms: [
        { id: id(), steps: [waitStep(1), yes] },
        { id: id(), steps: [no] },
      ],
    };
    const run = run1(sequence([until]));
    const waiting = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    const known = facts({}, { events: [event('order.paid', NOON + 5 * HOUR)] });
    const seen = advance(waiting, run, known, NOON + 5 * HOUR + 20 * MINUTE);
    expect(seen.visit.dueAt).toBe(NOON + 5 * HOUR + DAY);
  });
});

describe('the goal', () => {
  const cart = sequence([waitStep(1, 'hours'), emailStep('Your cart')], { goal: order });

  test('is reached by what happened in the very moment of entry: shops tell whole seconds', () => {
    const run = run1(cart);
    const visit = { ...enter('v', 'q', 1, run, NOON, {}), cause: 'begun' };
    const known = facts(
      {},
      {
        events: [
          { ...event('order.begun', NOON), id: 'begun' },
          { ...event('order.paid', NOON), id: 'paid' },
        ],
      },
    );
    const { visit: after } = advance(visit, run, known, NOON);
    expect(after.status).toBe('done');
  });

  test('is not reached by the event that began the passage, of the same kind though it be', () => {
    const run = run1(cart);
    const visit = { ...enter('v', 'q', 1, run, NOON, {}), cause: 'first' };
    const first = { ...event('order.paid', NOON), id: 'first' };
    expect(advance(visit, run, facts({}, { events: [first] }), NOON).visit.status).toBe('active');
    const second = { ...event('order.paid', NOON + MINUTE), id: 'second' };
    expect(advance(visit, run, facts({}, { events: [first, second] }), NOON + MINUTE).visit.status).toBe('done');
  });
});

describe('what one step changes, the next sees at the same instant', () => {
  const member: Condition = { kind: 'tag', tag: 'member', has: true };
  const cases: [string, Step, Condition][] = [
    ['a tag', action({ type: 'add-tag', tag: 'member' }), member],
    ['a tag taken off', action({ type: 'remove-tag', tag: 'old' }), { kind: 'tag', tag: 'old', has: false }],
    ['a list', action({ type: 'join-list', list: 'club' }), { kind: 'list', list: 'club', on: true }],
    [
      'an attribute',
      action({ type: 'set-attribute', key: 'plan', value: 'club' }),
      { kind: 'attribute', test: { field: 'plan', op: 'is', value: 'club' } },
    ],
    ['points', action({ type: 'add-points', points: 5 }), { kind: 'points', op: 'over', value: 4 }],
    ['an email’s own tag', emailStep('First', { thenTag: 'member' }), member],
    ['an email’s own points', emailStep('First', { thenPoints: 5 }), { kind: 'points', op: 'over', value: 4 }],
  ];
  const before = facts({ tags: ['old'] });

  test.each(cases)('%s, for a branch', (_name, step, condition) => {
    const [yes, no] = [emailStep('Yes'), emailStep('No')];
    const run = run1(sequence([step, branchStep(condition, [yes], [no])]));
    const { effects } = advance(enter('v', 'q', 1, run, NOON, {}), run, before, NOON);
    expect(sent(effects).at(-1)).toMatchObject({ step: yes.id });
  });

  test.each(cases)('%s, for whom an email is', (_name, step, condition) => {
    const only = emailStep('Only', { forWhom: condition });
    const run = run1(sequence([step, only]));
    const { effects } = advance(enter('v', 'q', 1, run, NOON, {}), run, before, NOON);
    expect(sent(effects).at(-1)).toMatchObject({ step: only.id });
  });

  test.each(cases)(
    '%s, for the goal: what was decided before it stands, nothing after it is',
    (_name, step, condition) => {
      const after = emailStep('After');
      const run = run1(sequence([step, after], { goal: condition }));
      const { effects, visit } = advance(enter('v', 'q', 1, run, NOON, {}), run, before, NOON);
      expect(sent(effects).map((e) => (e as { step?: string }).step)).not.toContain(after.id);
      expect(visit.status).toBe('done');
    },
  );

  test('who takes people off their own list does what else stands there, and mails nothing after it', () => {
    const [bye, never] = [emailStep('Bye'), emailStep('Never')];
    const run = run1(
      sequence([
        bye,
        action({ type: 'leave-list', list: 'letters' }),
        action({ type: 'add-tag', tag: 'asleep' }),
        never,
      ]),
    );
    const { effects, visit } = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON);
    expect(sent(effects)).toMatchObject([{ step: bye.id }]);
    expect(effects).toContainEqual(expect.objectContaining({ kind: 'tag', tag: 'asleep' }));
    expect(visit.status).toBe('done');
  });
});

describe('resuming by shift asks windows and the calendar anew', () => {
  const weekdays = { days: [1, 2, 3, 4, 5], from: 9 * 60, to: 17 * 60 };
  /** Tuesday 10 March 2026, 1:00 in Lisbon. */
  const tuesdayAtOne = Date.UTC(2026, 2, 10, 1);

  test('an email for Mon to Fri 9:00 to 17:00, due when the pause began, goes on Tuesday at 9:00 and never at 1:00', () => {
    const run = run1(sequence([emailStep('A', { window: weekdays })]));
    // Saturday: held until Monday 9:00; paused on Sunday, resumed on Tuesday at 1:00.
    const saturday = Date.UTC(2026, 2, 7, 12);
    const held = advance(enter('v', 'q', 1, run, saturday, {}), run, facts(), saturday).visit;
    const moved = resumedByShift(held, run, Date.UTC(2026, 2, 8, 12), tuesdayAtOne);
    const asked = advance(moved, run, facts(), tuesdayAtOne);
    expect(asked.effects).toEqual([]);
    expect(asked.visit.dueAt).toBe(Date.UTC(2026, 2, 10, 9));
  });

  test('a wait for 1 April that ran out in the pause does not end on the 6th', () => {
    const wait = { ...waitStep(0), at: { kind: 'day-of-year' as const, month: 4, day: 1, minute: 540 } };
    const run = run1(sequence([wait, emailStep('A')]));
    const waiting = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    const sixth = Date.UTC(2026, 3, 6, 9);
    const asked = advance(resumedByShift(waiting, run, Date.UTC(2026, 2, 30), sixth), run, facts(), sixth);
    expect(asked.effects).toEqual([]);
    expect(new Date(asked.visit.dueAt).toISOString()).toBe('2027-04-01T08:00:00.000Z');
  });

  test('a wait for the event’s own date, passed in the pause, follows its "when it has passed"', () => {
    const wait = {
      ...waitStep(0),
      at: { kind: 'date' as const, field: 'event.starts', days: -1, minute: null, passed: 'leave' as const },
    };
    const run = run1(sequence([wait, emailStep('Tomorrow')]));
    const entered = enter('v', 'q', 1, run, NOON, { starts: '2026-03-10T19:00:00Z' });
    const waiting = advance(entered, run, facts(), NOON).visit;
    const later = Date.UTC(2026, 2, 12, 12);
    const asked = advance(resumedByShift(waiting, run, NOON + DAY, later), run, facts(), later);
    expect(asked.effects).toEqual([]);
    expect(asked.trace[0]?.code).toBe('date-passed');
  });

  test('a wait of days goes on for as long as was left of it', () => {
    const run = run1(sequence([waitStep(3), emailStep('A')]));
    const waiting = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    const moved = resumedByShift(waiting, run, NOON + DAY, NOON + 5 * DAY);
    expect(moved.dueAt).toBe(NOON + 7 * DAY);
  });
});
