import { describe, expect, test } from 'vitest';
import type { Condition } from '../src/audience/index.ts';
import { advance, enter, prepare } from '../src/sequence/index.ts';
import { DAY, emailStep, event, facts, HOUR, live, NOON, sequence, waitStep } from './support.ts';

describe('what ends a visit early', () => {
  const goal: Condition = { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] };
  const doc = sequence([emailStep('A'), waitStep(3), emailStep('B')], { goal });

  test.each([
    ['at the moment of entry counts: shops tell whole seconds', NOON, 0],
    ['a ms after it does', NOON + 1, 1],
    ['before entry does not', NOON - 1, 2],
    ['in the very moment the next email is due comes first', NOON + 3 * DAY, 1],
  ])('an order placed %s', (_name, at, emails) => {
    const { sends } = live(doc, (now) => facts({}, { events: at <= now ? [event('order.paid', at)] : [] }));
    expect(sends).toHaveLength(emails);
  });

  test('whoever the rule for leaving is true of leaves at once, and has not reached the goal; both at once is the goal', () => {
    const leaving = sequence([emailStep('A'), waitStep(3), emailStep('B')], {
      goal,
      exit: { kind: 'any', of: [{ kind: 'tag', tag: 'customer', has: true }, goal] },
    });
    const run = prepare(leaving);
    const waiting = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    const tagged = advance(waiting, run, facts({ tags: ['customer'] }), NOON + HOUR);
    expect(tagged.visit).toMatchObject({ status: 'done', ending: 'left', step: null, endedAt: NOON + HOUR });
    expect(tagged.trace.map((t) => t.code)).toEqual(['left-by-rule']);
    expect(tagged.effects).toEqual([]);
    const ordered = facts({}, { events: [event('order.paid', NOON + HOUR)] });
    expect(advance(waiting, run, ordered, NOON + 2 * HOUR).visit).toMatchObject({
      ending: 'goal',
      endedAt: NOON + HOUR,
    });
    expect(live(leaving, facts({ tags: ['customer'] })).sends).toEqual([]);
  });

  test('a person woken by a fact that is no goal stays where they stand, with the same due time', () => {
    const run = prepare(doc);
    const waiting = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    const woken = advance(waiting, run, facts({}, { events: [event('item.viewed', NOON + HOUR)] }), NOON + HOUR);
    expect(woken).toMatchObject({ visit: waiting, effects: [], trace: [] });
  });

  test.each([
    ['bounced', 'letters', {}, 0],
    ['bounced', null, {}, 0],
    ['complained', 'letters', {}, 0],
    ['complained', null, {}, 1],
    ['unsubscribed', 'letters', {}, 0],
    ['unsubscribed', null, {}, 1],
    ['ok', 'letters', { letters: 'left' }, 0],
    ['ok', 'letters', { letters: 'pending' }, 0],
    ['ok', null, {}, 1],
  ] as const)('mail status %s, mailing under %s, lists %j: %i email', (mailStatus, list, lists, emails) => {
    const person = facts({ mailStatus, lists: { letters: 'confirmed', ...lists } });
    expect(live(sequence([emailStep('A')], { list }), person).sends).toHaveLength(emails);
  });
});
