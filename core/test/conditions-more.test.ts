import { describe as group, expect, test } from 'vitest';
import { describe, evaluate, nextTurn, type Condition, type MailFact } from '../src/audience/index.ts';
import { asking, DAY, facts, HOUR, NOON } from './support.ts';

// Expected values are written from the need, by hand.

group('a date of theirs against today', () => {
  const ask = (
    value: unknown,
    when: 'next' | 'past' | 'anniversary',
    days: number,
    now: number,
    zone = 'Europe/Lisbon',
  ) =>
    evaluate(
      { kind: 'date', field: 'renews_on', when, days, is: true },
      asking(facts({ zone, attributes: { renews_on: value as string } }), { now }),
    );
  const noon = Date.UTC(2026, 2, 6, 12);

  test.each([
    ['2026-03-06', 'next', 0, true, 'today is today'],
    ['2026-03-05', 'next', 7, false, 'yesterday is not next'],
    ['2026-03-13', 'next', 7, true, 'the last day counts'],
    ['2026-03-14', 'next', 7, false, 'the day after does not'],
    ['2026-03-13T23:59:00Z', 'next', 7, true, 'whatever the hour'],
    ['2026-02-27', 'past', 7, true, 'a week ago'],
    ['2026-02-26', 'past', 7, false, 'longer ago'],
    ['2026-03-07', 'past', 7, false, 'tomorrow is not past'],
    ['1961-03-09', 'anniversary', 7, true, 'a birthday of this week'],
    ['1961-03-14', 'anniversary', 7, false, 'one of next week'],
    ['1961-03-05', 'anniversary', 0, false, 'one of yesterday'],
    ['1961-03-05', 'anniversary', 3650, true, 'every day comes round within a year'],
    ['soon', 'anniversary', 3650, false, 'words are no date'],
    [null, 'past', 3650, false, 'nor is nothing'],
  ] as const)('%s, %s %d days: %s (%s)', (value, when, days, expected, _why) => {
    expect(ask(value, when, days, noon)).toBe(expected);
  });

  test('today is theirs: at noon in Lisbon it is tomorrow on Kiritimati', () => {
    expect(ask('2026-03-07', 'next', 0, noon, 'Pacific/Kiritimati')).toBe(true);
    expect(ask('2026-03-07', 'next', 0, noon)).toBe(false);
  });
  test('29 February comes round on the 28th in common years, on the 29th in leap years', () => {
    expect(ask('1992-02-29', 'anniversary', 0, Date.UTC(2026, 1, 28, 12))).toBe(true);
    expect(ask('1992-02-29', 'anniversary', 0, Date.UTC(2028, 1, 28, 12))).toBe(false);
    expect(ask('1992-02-29', 'anniversary', 0, Date.UTC(2028, 1, 29, 12))).toBe(true);
    expect(ask('1992-12-31', 'anniversary', 3, Date.UTC(2026, 11, 30, 12))).toBe(true);
  });
  test('the answer changes at their midnight, and is looked at then', () => {
    const c: Condition = { kind: 'date', field: 'renews_on', when: 'next', days: 3, is: true };
    const their = asking(facts({ zone: 'Europe/Lisbon', attributes: {} }), { now: noon });
    expect(nextTurn(c, their)).toBe(Date.UTC(2026, 2, 7, 0));
  });
});

group('their mail of every sequence', () => {
  const mail = (of: Partial<MailFact>[], c: Partial<Extract<Condition, { kind: 'mail' }>>) =>
    evaluate(
      { kind: 'mail', what: 'opened', times: 1, since: { kind: 'ever' }, did: true, ...c },
      asking(facts({}, { mail: of.map((m) => ({ sentAt: NOON - 9 * DAY, openedAt: null, clickedAt: null, ...m })) })),
    );
  const month = { kind: 'period', amount: 30, unit: 'days' } as const;

  test('opened in a period: by when, not by when it was sent; a click is an opening', () => {
    const late = { sentAt: NOON - 90 * DAY, openedAt: NOON - 2 * DAY };
    expect(mail([late], { since: month })).toBe(true);
    expect(mail([{ ...late, openedAt: NOON - 31 * DAY }], { since: month })).toBe(false);
    expect(mail([{ clickedAt: NOON }], {})).toBe(true);
    expect(mail([{ openedAt: NOON + 1 }], {})).toBe(false);
    expect(mail([], { did: false })).toBe(true);
  });
  test('in so many emails: one opened twice is one', () => {
    const one = { openedAt: NOON - DAY };
    expect(mail([one, one], { times: 3 })).toBe(false);
    expect(mail([one, one, one, {}], { times: 3 })).toBe(true);
    expect(mail([{}, {}, {}], { what: 'got', times: 3, since: month })).toBe(true);
    expect(mail([{}, {}, { sentAt: NOON - 40 * DAY }], { what: 'got', times: 3, since: month })).toBe(false);
  });
  test('a link: its host with those below it, or a part of its words', () => {
    const clicks = [{ at: NOON - DAY, address: 'https://Shop.Foldwell.example:8080/kits?x=1', words: 'See the kits' }];
    const clicked = [{ clickedAt: NOON - DAY, clicks }];
    const by = (by: 'host' | 'words', text: string) => mail(clicked, { what: 'clicked', link: { by, text } });
    expect(by('host', 'foldwell.example')).toBe(true);
    expect(by('host', 'shop.foldwell.example')).toBe(true);
    expect(by('host', 'well.example')).toBe(false);
    expect(by('host', 'kits')).toBe(false);
    expect(by('words', 'THE KITS')).toBe(true);
    expect(by('words', 'thread')).toBe(false);
  });
});

group('lists and sequences', () => {
  test('how and how lately they joined a list that they are on', () => {
    const person = facts({ joined: { letters: { at: NOON - 10 * DAY, how: 'form' } } });
    const ask = (c: Partial<Extract<Condition, { kind: 'joined' }>>) =>
      evaluate({ kind: 'joined', list: 'letters', how: null, within: null, is: true, ...c }, asking(person));
    expect(ask({})).toBe(true);
    expect(ask({ list: 'club' })).toBe(false);
    expect(ask({ how: 'form', within: { amount: 10, unit: 'days' } })).toBe(true);
    expect(ask({ how: 'import' })).toBe(false);
    expect(ask({ within: { amount: 9, unit: 'days' } })).toBe(false);
    expect(ask({ within: { amount: 9, unit: 'days' }, is: false })).toBe(true);
  });
  test('how they stand to another sequence; a wait for it looks every hour', () => {
    const person = facts({}, { sequences: { welcome: { inside: false, ended: true, goal: false } } });
    const ask = (state: 'inside' | 'ended' | 'goal', sequence = 'welcome'): Condition => ({
      kind: 'sequence',
      sequence,
      state,
      is: true,
    });
    expect(['inside', 'ended', 'goal'].map((s) => evaluate(ask(s as 'goal'), asking(person)))).toEqual([
      false,
      true,
      false,
    ]);
    expect(evaluate(ask('ended', 'course'), asking(person))).toBe(false);
    expect(nextTurn(ask('goal'), asking(person))).toBe(NOON + HOUR);
  });
});

test('each says itself as a part of a sentence', () => {
  const said = (c: Condition) => describe(c);
  expect(said({ kind: 'date', field: 'renews_on', when: 'next', days: 7, is: true })).toBe(
    'has a renews on that is in the next 7 days',
  );
  expect(said({ kind: 'date', field: 'birthday', when: 'anniversary', days: 0, is: true })).toBe(
    'has a birthday that comes round today',
  );
  expect(
    said({ kind: 'mail', what: 'opened', times: 1, since: { kind: 'period', amount: 30, unit: 'days' }, did: false }),
  ).toBe('did not open an email of any sequence in the last 30 days');
  expect(
    said({
      kind: 'mail',
      what: 'clicked',
      times: 2,
      since: { kind: 'ever' },
      link: { by: 'host', text: 'foldwell.example' },
      did: true,
    }),
  ).toBe('clicked a link to foldwell.example in 2 emails or more of any sequence ever');
  expect(said({ kind: 'joined', list: 'Letters', how: 'form', within: { amount: 1, unit: 'weeks' }, is: true })).toBe(
    'joined “Letters” by a form in the last 1 week',
  );
  expect(said({ kind: 'sequence', sequence: 'Welcome', state: 'goal', is: false })).toBe(
    'did not reach the goal of “Welcome”',
  );
  expect(said({ kind: 'attribute', test: { field: 'skill', op: 'is one of', value: ['new', 'some', 'old'] } })).toBe(
    'has a value for skill that is one of “new”, “some” or “old”',
  );
  expect(said({ kind: 'attribute', test: { field: 'skill', op: 'begins with', value: 'n' } })).toBe(
    'has a value for skill that begins with “n”',
  );
});
