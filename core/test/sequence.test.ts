import { describe, expect, test } from 'vitest';
import type { Facts } from '../src/audience/index.ts';
import {
  advance,
  applyCommands,
  armLabel,
  armsOf,
  blankEmail,
  blankSequence,
  blankStep,
  stepSchema,
  enter,
  prepare,
  traceCodes,
  traceSentence,
  stacksOf,
  type Saved,
  type Command,
  type Sequence,
  type Step,
} from '../src/sequence/index.ts';
import { plainNames } from '../src/audience/index.ts';
import { rateWords } from '../src/results/index.ts';
import { runChecks } from '../src/checks/index.ts';
import { plainStyle } from '../src/email/index.ts';
import { context } from './check-case.ts';
import { facts as person, HOUR, id, NOON } from './support.ts';

const facts = (extra: Partial<Facts['person']> = {}, events: Facts['events'] = []) => person(extra, { events });
const wait = { id: 'w', on: true, note: '', kind: 'wait' as const, amount: 1, unit: 'days' as const, at: null };
const sequence = (extra: Partial<Sequence> = {}): Sequence => ({
  ...blankSequence('Welcome', 'letters'),
  steps: [{ ...blankEmail(id), id: 'a' }, wait, { ...blankEmail(id), id: 'b' }],
  ...extra,
});

describe('advance', () => {
  test('lag never drifts a schedule: the due time counts as now', () => {
    const run = prepare(sequence());
    const first = advance(enter('v', 's', 1, run, NOON, {}), run, facts(), NOON + 90_000);
    expect(first.effects).toEqual([{ kind: 'send', step: 'a', dueAt: NOON }]);
    expect(first.visit.dueAt).toBe(NOON + 24 * HOUR);
  });
  test('the goal ends a visit wherever it stands, the entry event itself does not', () => {
    const goal = {
      kind: 'event' as const,
      event: 'order.paid',
      done: true,
      since: { kind: 'entry' as const },
      where: [],
    };
    const run = prepare(sequence({ goal }));
    const order = (at: number) => facts({}, [{ id: `order-${at}`, name: 'order.paid', at, payload: {} }]);
    const begun = { ...enter('v', 's', 1, run, NOON, {}), cause: `order-${NOON}` };
    const waiting = advance(begun, run, order(NOON), NOON).visit;
    expect(waiting.status).toBe('active');
    const ended = advance(waiting, run, order(NOON + HOUR), NOON + HOUR);
    expect([ended.visit.status, ended.trace[0]?.code]).toEqual(['done', 'goal-reached']);
  });
  test('nobody who unsubscribed gets the next email; service mail still goes', () => {
    const gone = facts({ mailStatus: 'unsubscribed' });
    const run = prepare(sequence());
    expect(advance(enter('v', 's', 1, run, NOON, {}), run, gone, NOON).effects).toEqual([]);
    const service = prepare(sequence({ list: null }));
    expect(advance(enter('v', 's', 1, service, NOON, {}), service, gone, NOON).effects).toHaveLength(1);
  });
});

test('every trace code has a sentence', () => {
  for (const code of traceCodes) {
    const sentence = traceSentence(
      {
        at: NOON,
        step: 'a',
        code,
        data: {
          until: NOON,
          zone: 'Europe/Lisbon',
          amount: 1,
          unit: 'days',
          answer: '550 no',
          attempts: 6,
          tag: 't',
          arm: 'a',
          version: 2,
          list: 'Letters',
          key: 'skill',
          value: 'new',
          offer: 'Kit offer',
          closed: NOON,
          sequence: 'Course',
          by: 'Course',
          points: 10,
          to: 'ines@foldwell.example',
          url: 'https://foldwell.example/hook',
          hours: 5,
          why: 'priority',
        },
      },
      { ...plainNames, filter: () => 'is new', forWhom: () => 'is new', arm: (a) => a, zone: 'Europe/Lisbon' },
    );
    expect(sentence).toMatch(/^.{10,}\.$/);
    expect(sentence).not.toContain('undefined');
  }
});

test('commands taken back in order leave the document as it was, and the log gives the stacks', () => {
  const doc = sequence();
  const commands: Command[] = [
    { type: 'email.set', step: 'a', field: 'subject', value: 'Hello' },
    { type: 'step.move', step: 'b', place: { arm: null, index: 0 } },
    { type: 'step.set', step: 'w', field: 'amount', value: 3 },
    { type: 'step.remove', step: 'a' },
  ];
  const { doc: changed, inverses } = applyCommands(doc, commands);
  expect(changed.steps.map((s) => s.id)).toEqual(['b', 'w']);
  expect(applyCommands(changed, inverses).doc).toEqual(doc);
  const saved = (revision: number, role: Saved['role'], some: Command[], back: Command[], mine = true): Saved => ({
    id: `edit ${revision}`,
    revision,
    role,
    commands: some,
    inverses: back,
    by: mine ? 'Inês' : 'Ana',
    mine,
  });
  const others = saved(2, 'edit', [{ type: 'set', field: 'name', value: 'Theirs' }], [], false);
  const stacks = stacksOf([saved(1, 'edit', commands, inverses), others, saved(3, 'undo', inverses, commands)]);
  expect(stacks).toEqual({ undo: [], redo: [{ edit: 'edit 3', commands, since: [] }] });
  // What somebody else did is not one's own to take back, and it is minded.
  expect(stacksOf([saved(1, 'edit', commands, inverses), others])).toEqual({
    undo: [{ edit: 'edit 1', commands: inverses, since: [others] }],
    redo: [],
  });
});

test('checks find what is wrong and say where', () => {
  const findings = runChecks(sequence({ triggers: [{ kind: 'hand' }] }), {
    ...context(),
    style: plainStyle,
    senders: [{ id: 'x', isDefault: true, untouched: true, fields: {} }],
    bytes: { a: 120_000 },
  });
  expect([...new Set(findings.map((f) => f.check))].sort()).toEqual([
    'dead-link',
    'default-sender',
    'empty-block',
    'no-subject',
    'no-unsubscribe',
    'too-heavy',
  ]);
  expect(findings.find((f) => f.check === 'no-subject')?.place).toEqual({ step: 'a', block: null, part: 'subject' });
});

test('rates as the trade says them (common practice, no published source)', () => {
  expect([rateWords(192, 405), rateWords(69, 405), rateWords(24, 392), rateWords(0, 0)]).toEqual([
    '47%',
    '17%',
    '6.1%',
    '–',
  ]);
  // None is not said of some, nor all of nearly all.
  expect([
    rateWords(219, 220),
    rateWords(99_999, 100_000),
    rateWords(220, 220),
    rateWords(1, 100_000),
    rateWords(0, 9),
  ]).toEqual(['99.5%', '99.9%', '100%', '<0.1%', '0%']);
});

test('a new step of every kind is one that a save accepts', () => {
  for (const kind of ['email', 'wait', 'branch', 'action', 'leave'] as const)
    expect(stepSchema.safeParse(blankStep(kind, id)).error).toBeUndefined();
});

describe('arms of a branch and of a split', () => {
  const tag = (name: string) => ({ kind: 'tag' as const, tag: name, has: true });
  const branch = () => ({ ...blankStep('branch', id), id: 'b' });
  const split = () => ({ ...blankStep('split', id), id: 's' });
  const doc: Sequence = { ...blankSequence('Arms', 'letters'), steps: [branch(), split()] };
  const otherwise = (s: Sequence) =>
    s.steps[0]?.kind === 'branch' ? s.steps[0].arms.findIndex((a) => a.condition === null) : -1;

  test('put in, moved, weighed and taken out, each taken back as it was; “otherwise” stays last', () => {
    const first = doc.steps[0]?.kind === 'branch' ? (doc.steps[0].arms[0]?.id ?? '') : '';
    const half = doc.steps[1]?.kind === 'split' ? (doc.steps[1].arms[0]?.id ?? '') : '';
    const commands: Command[] = [
      { type: 'arm.insert', step: 'b', index: 99, arm: { id: 'new', condition: tag('x'), steps: [] } },
      { type: 'arm.move', arm: 'new', index: 0 },
      { type: 'arm.set', arm: 'new', condition: tag('y') },
      { type: 'arm.remove', arm: first },
      { type: 'arm.insert', step: 's', index: 99, arm: { id: 'third', weight: 20, steps: [] } },
      { type: 'arm.weigh', arm: half, weight: 70 },
      { type: 'arm.name', arm: half, name: 'The short one' },
      { type: 'arm.move', arm: 'third', index: 0 },
    ];
    const { doc: after, inverses } = applyCommands(doc, commands);
    const b = after.steps[0];
    expect(b?.kind === 'branch' && otherwise(after) === b.arms.length - 1).toBe(true);
    expect(applyCommands(after, inverses).doc).toEqual(doc);
  });

  test('an arm of a wait for something has a name by hand too, and is called so', () => {
    const until = blankStep('until', id);
    const waiting = { ...doc, steps: [until] };
    const [happened] = armsOf(until);
    const { doc: after, inverses } = applyCommands(waiting, [
      { type: 'arm.name', arm: happened?.id ?? '', name: 'Read it' },
    ]);
    expect(armLabel(after.steps[0] as Step, happened?.id ?? '', plainNames)).toBe('Read it');
    expect(applyCommands(after, inverses).doc).toEqual(waiting);
  });

  test.each<[string, Command]>([
    [
      'the last question',
      { type: 'arm.remove', arm: doc.steps[0]?.kind === 'branch' ? (doc.steps[0].arms[0]?.id ?? '') : '' },
    ],
    [
      '“otherwise”',
      { type: 'arm.move', arm: doc.steps[0]?.kind === 'branch' ? (doc.steps[0].arms[1]?.id ?? '') : '', index: 0 },
    ],
    ['a share on a branch', { type: 'arm.insert', step: 'b', index: 0, arm: { id: 'w', weight: 1, steps: [] } }],
    [
      'a condition that is none',
      {
        type: 'arm.set',
        arm: doc.steps[0]?.kind === 'branch' ? (doc.steps[0].arms[0]?.id ?? '') : '',
        condition: { kind: 'magic' },
      },
    ],
  ])('refused with a sentence, and nothing changed: %s', (_what, command) => {
    const before = JSON.stringify(doc);
    expect(() => applyCommands(doc, [command])).toThrow(/^.{10,}$/);
    expect(JSON.stringify(doc)).toBe(before);
  });
});
