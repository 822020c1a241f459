import { describe, expect, test } from 'vitest';
import { runChecks, type CheckContext } from '../src/checks/index.ts';
import { blockKinds, paragraphs, type Block, type Email } from '../src/email/index.ts';
import { blankOffer, type Offer } from '../src/offer/index.ts';
import type { EmailStep, Step } from '../src/sequence/index.ts';
import { checkCase, context, good, type Case } from './check-case.ts';
import { branchStep, NOON, sequence, waitStep } from './support.ts';

const kit: Offer = { ...blankOffer(), name: 'Kit offer', around: { before: '', after: 'one order' } };
const entry = (oid: string, offer: Offer, more = {}) => ({
  id: oid,
  name: offer.name,
  offer,
  left: null,
  waiting: 0,
  ...more,
});
const offers = (some: Partial<Offer> = {}, more = {}): Partial<CheckContext> => ({
  offers: [entry('kit', { ...kit, ...some }, more)],
  now: NOON,
});
const code: Block = { ...blockKinds.code.blank(() => 'code'), note: '' };
const timer: Block = { ...blockKinds.timer.blank(() => 'timer') };
const text = (words: string): Block => ({ kind: 'text', id: 'text', doc: paragraphs(words) });
const email = (change: Partial<Email>, more: Block[] = [], rest: Partial<EmailStep> = {}): EmailStep => ({
  ...good(change, more),
  ...rest,
});
const making = (more: Block[] = [], rest: Partial<EmailStep> = {}) => email({ offer: 'kit' }, more, rest);
const one = (step: Step) => sequence([step]);
const branch = (first: Step[], second: Step[]) => branchStep({ kind: 'tag', tag: 'x', has: true }, first, second);
const monday = { days: [1], from: 480, to: 600 };
const shared = { codes: { kind: 'shared', code: 'PAPER10' } } as const;
const two = { offers: [entry('kit', kit), entry('paper', { ...kit, ...shared, name: 'Paper offer' })] };
const imported = (left: number, waiting: number) => offers({ codes: { kind: 'imported' } }, { left, waiting });

const withCode = one(making([code]));

const cases: Case[] = [
  {
    check: 'codes-short',
    what: 'four imported codes for nine people on the way',
    bad: withCode,
    near: withCode,
    place: { part: 'offer' },
    level: 'warning',
    context: imported(4, 9),
  },
  {
    check: 'without-offer',
    what: 'a code without an offer',
    bad: one(email({}, [code])),
    near: one(making([code])),
    place: { block: 'code', part: 'code' },
    level: 'error',
    context: offers(),
    repairs: true,
  },
  {
    check: 'without-offer',
    what: 'a timer without an offer, or a date',
    bad: one(email({}, [timer])),
    near: one(email({}, [{ ...timer, to: { kind: 'date', wall: '2026-04-01T18:00', zone: 'UTC' } }])),
    place: { block: 'timer', part: 'counts to' },
    level: 'error',
    context: offers(),
    repairs: true,
  },
  {
    check: 'without-offer',
    what: 'a field of an offer in the subject, where there are two to choose from',
    bad: one(email({ subject: 'Your {{ offer.code }}' })),
    near: one(email({ subject: 'Your {{ offer.code }}', offer: 'kit' })),
    place: { block: null, part: 'subject' },
    level: 'error',
    context: two,
  },
  {
    check: 'without-offer',
    what: 'an offer that is gone',
    bad: one(email({ offer: 'old' })),
    near: one(making()),
    place: { part: 'offer' },
    level: 'error',
    context: offers(),
  },
  {
    check: 'without-offer',
    what: 'a code of an offer without codes',
    bad: one(making([code])),
    near: one(making([timer])),
    place: { block: 'code' },
    level: 'error',
    context: offers({ codes: { kind: 'none' } }),
  },
  {
    check: 'without-offer',
    what: 'a timer to an offer that never closes',
    bad: one(making([timer])),
    near: one(making([code])),
    place: { block: 'timer' },
    level: 'error',
    context: offers({ deadline: { kind: 'never' } }),
  },
  {
    check: 'closes-before',
    what: 'a reminder three days on of an offer of two',
    bad: sequence([making(), waitStep(3), making([], { id: 'late' })]),
    near: sequence([making(), waitStep(1), making([], { id: 'late' })]),
    place: { step: 'late', part: 'offer' },
    level: 'error',
    context: offers(),
  },
  {
    check: 'closes-before',
    what: 'an offer that counts from joining',
    bad: sequence([waitStep(2), making()]),
    near: sequence([waitStep(1), making()]),
    place: { part: 'offer' },
    level: 'error',
    context: offers({ deadline: { kind: 'after', from: 'entry', event: '', amount: 36, unit: 'hours', minute: null } }),
  },
  {
    check: 'closes-before',
    what: 'a fixed day that has passed by then',
    bad: sequence([waitStep(9), making()]),
    near: sequence([waitStep(5), making()]),
    place: { part: 'offer' },
    level: 'error',
    context: offers({ deadline: { kind: 'fixed', wall: '2026-03-14T18:00', zone: 'Europe/Lisbon' } }),
  },
  {
    check: 'closes-before',
    what: 'a code that a window can hold back beyond the deadline',
    bad: sequence([making(), waitStep(1), making([code], { id: 'late', window: monday })]),
    near: sequence([
      making(),
      waitStep(1),
      making([code], { id: 'late', window: { ...monday, days: [0, 1, 2, 3, 4, 5, 6] } }),
    ]),
    place: { step: 'late', block: 'code' },
    level: 'warning',
    context: offers(),
  },
  {
    check: 'closes-before',
    what: 'a branch whose longer arm comes too late',
    bad: sequence([making(), branch([waitStep(1)], [waitStep(4)]), making([], { id: 'late' })]),
    near: sequence([making(), branch([waitStep(1)], [waitStep(40, 'hours')]), making([], { id: 'late' })]),
    place: { step: 'late' },
    level: 'warning',
    context: offers(),
  },
  {
    check: 'two-offers',
    what: 'the code of another offer in plain words',
    bad: one(making([text('Or take PAPER10 for the papers.')])),
    near: one(making([text('Or take PAPER100 for the papers.')])),
    place: { block: 'text' },
    level: 'warning',
    context: two,
  },
  {
    check: 'two-offers',
    what: 'a block for whoever another offer is open for',
    bad: one(
      making([
        {
          ...text('Hurry.'),
          when: {
            chain: 'if',
            condition: { kind: 'offer', offer: 'paper', state: 'open', within: { amount: 1, unit: 'days' }, is: true },
          },
        },
      ]),
    ),
    near: one(
      making([
        {
          ...text('Thank you.'),
          when: {
            chain: 'if',
            condition: { kind: 'offer', offer: 'paper', state: 'used', within: { amount: 1, unit: 'days' }, is: true },
          },
        },
      ]),
    ),
    place: { part: 'offer' },
    level: 'warning',
    context: two,
  },
  {
    check: 'unfinished',
    what: 'a condition about an offer that is gone',
    bad: one(
      email({}, [], {
        forWhom: { kind: 'offer', offer: 'old', state: 'open', within: { amount: 1, unit: 'days' }, is: true },
      }),
    ),
    near: one(
      email({}, [], {
        forWhom: { kind: 'offer', offer: 'kit', state: 'open', within: { amount: 1, unit: 'days' }, is: true },
      }),
    ),
    place: {},
    level: 'error',
    context: offers(),
  },
];

describe('checks of offers', () => {
  test.each(cases.map((c) => [`${c.check}: ${c.what}`, c] as const))('%s', (_name, c) => checkCase(c));

  test('codes-short: fewer codes than people on the way to one, with what will happen', () => {
    const told = (around: Partial<CheckContext>) =>
      runChecks(one(making([code])), context(around))
        .filter((f) => f.check === 'codes-short')
        .map((f) => f.message);
    expect(told(imported(4, 9))).toEqual([
      '“Kit offer” has 4 codes left, and 9 people on the way to one. The email will wait for new ones.',
    ]);
    expect(told(imported(9, 9))).toEqual([]);
    expect(told(offers({}, { left: null, waiting: 5000 }))).toEqual([]);
  });

  test('whoever may not have passed the email that gives it opens the offer with the later one: no error', () => {
    const late = making([], { id: 'late' });
    const steps = [branch([making()], []), waitStep(5), late];
    expect(runChecks(sequence(steps), context(offers())).filter((f) => f.check === 'closes-before')).toEqual([]);
    const forSome = making([], { forWhom: { kind: 'tag', tag: 'kit-owner', has: true } });
    expect(
      runChecks(sequence([forSome, waitStep(5), late]), context(offers())).filter((f) => f.check === 'closes-before'),
    ).toEqual([]);
  });
});
