import { expect, test } from 'vitest';
import {
  blankEmail,
  dateMoments,
  earlyEnd,
  emailsOfEvent,
  goesOnAt,
  isOneOff,
  momentRange,
  prepare,
  startedBy,
  startingEvents,
  isSwept,
  type SplitStep,
  type Step,
  type Trigger,
  type TriggerOf,
} from '../src/sequence/index.ts';
import { DAY as A_DAY, zoneOf } from '../src/time/index.ts';
import { blockKinds } from '../src/email/index.ts';
import { zoneOfPerson, type Condition } from '../src/audience/index.ts';
import { splitArm } from '../src/sequence/advance.ts';
import { asking, emailStep, event, facts, id, NOON, sequence } from './support.ts';

// What brings somebody in, and what ends it early: expected values by hand, from what a marketer would say.

const reading = (what: 'opened' | 'clicked', email?: TriggerOf<'reading'>['email']): Trigger => ({
  kind: 'reading',
  what,
  ...(email && { email }),
});
const it = (what: 'opened' | 'clicked', link: string | null = null) =>
  ({ kind: 'reading', what, sequence: 'q', step: 's', link }) as const;

test('a click is an opening as well, an opening is no click; of the email that is named, and the link', () => {
  expect(startedBy(reading('opened'), it('opened'))).toBe(true);
  expect(startedBy(reading('opened'), it('clicked'))).toBe(true);
  expect(startedBy(reading('clicked'), it('clicked'))).toBe(true);
  expect(startedBy(reading('clicked'), it('opened'))).toBe(false);
  expect(startedBy(reading('opened', { sequence: 'q', step: 's' }), it('opened'))).toBe(true);
  expect(startedBy(reading('opened', { sequence: 'q', step: 'other' }), it('opened'))).toBe(false);
  expect(startedBy(reading('opened', { sequence: 'other', step: 's' }), it('opened'))).toBe(false);
  const linked = reading('clicked', { sequence: 'q', step: 's', link: 'https://foldwell.example/kits' });
  expect(startedBy(linked, it('clicked', 'https://foldwell.example/kits'))).toBe(true);
  expect(startedBy(linked, it('clicked', 'https://foldwell.example/'))).toBe(false);
});

test('a value that becomes what is waited for starts, one that is it already does not', () => {
  const trigger: Trigger = { kind: 'attribute', test: { field: 'plan', op: 'is', value: 'paper' } };
  const change = (before: string | null, after: string | null) =>
    startedBy(trigger, { kind: 'attribute', before: { plan: before }, after: { plan: after } });
  expect(change(null, 'paper')).toBe(true);
  expect(change('card', 'paper')).toBe(true);
  expect(change('paper', 'paper')).toBe(false);
  expect(change('paper', 'card')).toBe(false);
});

const yearly = (days: number): TriggerOf<'date'> => ({
  kind: 'date',
  attribute: 'born_on',
  days,
  minute: 9 * 60,
  yearly: true,
});
const lisbon = zoneOf('Europe/Lisbon');
const on = (text: string) => Date.parse(text);

test('a birthday comes round each year at its hour, on the 28th where there is no 29th, and over the turn of the year', () => {
  const moments = (date: string, days: number, from: string, until: string) =>
    dateMoments(yearly(days), date, lisbon, on(from), on(until)).map((m) => [new Date(m.at).toISOString(), m.occasion]);
  expect(moments('1992-02-29', 0, '2027-01-01T00:00Z', '2028-12-31T00:00Z')).toEqual([
    ['2027-02-28T09:00:00.000Z', '2027-02-28'],
    ['2028-02-29T09:00:00.000Z', '2028-02-29'],
  ]);
  // A week before 3 January lies in the year before, ten days after 28 December in the next.
  expect(moments('1990-01-03', -7, '2026-12-01T00:00Z', '2026-12-31T23:00Z')).toEqual([
    ['2026-12-27T09:00:00.000Z', '2027-01-03'],
  ]);
  expect(moments('1990-12-28', 10, '2027-01-01T00:00Z', '2027-01-31T00:00Z')).toEqual([
    ['2027-01-07T09:00:00.000Z', '2026-12-28'],
  ]);
  // What lies at the beginning of the look was seen by the one before; at its end it is in it.
  expect(moments('1990-03-06', 0, '2026-03-06T09:00Z', '2026-03-07T00:00Z')).toEqual([]);
  expect(moments('1990-03-06', 0, '2026-03-05T00:00Z', '2026-03-06T09:00Z')).toHaveLength(1);
});

test('a day that comes once is due once; words are no date', () => {
  const once = { ...yearly(1), yearly: false };
  const moments = (date: unknown, from: string, until: string) =>
    dateMoments(once, date, lisbon, on(from), on(until)).map((m) => [m.at, m.occasion]);
  expect(moments('2026-03-05', '2026-03-05T00:00Z', '2026-03-07T00:00Z')).toEqual([
    [on('2026-03-06T09:00Z'), '2026-03-05'],
  ]);
  expect(moments('2026-03-05', '2026-03-06T09:00Z', '2026-03-07T00:00Z')).toEqual([]);
  expect(moments('2026-03-05', '2026-03-05T00:00Z', '2026-03-06T08:59Z')).toEqual([]);
  for (const none of ['soon', '', null, 7, ['2026-03-05']])
    expect([
      moments(none, '2026-01-01T00:00Z', '2027-01-01T00:00Z'),
      dateMoments(yearly(0), none, lisbon, 0, NOON),
    ]).toEqual([[], []]);
});

test('a send on a day begins where it is that hour first and ends where it is last', () => {
  const own: TriggerOf<'moment'> = { kind: 'moment', when: 'day', day: '2026-03-06', minute: 540, zone: null };
  // Kiritimati is fourteen hours ahead of UTC, what lies farthest behind is Baker Island's Etc/GMT+12.
  expect(momentRange(own)).toEqual({ first: on('2026-03-05T19:00Z'), last: on('2026-03-06T21:00Z') });
  expect(momentRange({ ...own, zone: 'Europe/Lisbon' })).toEqual({
    first: on('2026-03-06T09:00Z'),
    last: on('2026-03-06T09:00Z'),
  });
  expect(momentRange({ ...own, when: 'published' })).toBeNull();
  expect(momentRange({ ...own, day: '' })).toBeNull();
  // Whoever waited for a test goes on at that hour of theirs, on any day of the week.
  for (let day = 0; day < 7; day++) {
    const decided = on('2026-03-08T12:00Z') + day * A_DAY;
    expect(goesOnAt({ triggers: [own] }, lisbon, decided)).toBe(decided - 3 * 3_600_000 + A_DAY);
  }
  expect(goesOnAt({ triggers: [{ ...own, zone: 'UTC' }] }, lisbon, NOON)).toBe(NOON);
  expect(isOneOff({ triggers: [own] })).toBe(true);
  expect(isOneOff({ triggers: [own, { kind: 'hand' }] })).toBe(false);
});

test('what is looked for among people, and which events begin a passage', () => {
  const kinds: Trigger[] = [
    { kind: 'event', event: 'order.paid', where: [] },
    { kind: 'unfollowed', event: 'order.begun', without: 'order.paid', amount: 1, unit: 'hours', where: [] } as never,
    { kind: 'segment', segment: 's' } as never,
    { kind: 'hand' },
    { kind: 'list', list: 'l', what: 'joined' },
  ];
  expect(kinds.filter(isSwept).map((t) => t.kind)).toEqual(['unfollowed', 'segment']);
  expect(startingEvents(kinds)).toEqual(['order.paid', 'order.begun']);
});

test('an email speaks of the event that began the passage, unless it can do without, is switched off, or asks for whom it is', () => {
  const email = (subject: string, more: Partial<ReturnType<typeof blankEmail>> = {}) => {
    const blank = blankEmail(id, 'Cart');
    return { ...blank, ...more, email: { ...blank.email, subject } };
  };
  const timer = (to: object, off: boolean) => {
    const blank = blankEmail(id, 'Timer');
    const block = { ...blockKinds.timer.blank(id), to, off };
    return { ...blank, email: { ...blank.email, blocks: [block] as never } };
  };
  const speaks = (step: object) => emailsOfEvent({ steps: [step as Step] }).length === 1;
  expect(speaks(email('Your {{ event.total }}'))).toBe(true);
  expect(speaks(email('Your {{ event.total | fallback: "cart" }}'))).toBe(false);
  expect(speaks(email('Your {{ person.first_name }}'))).toBe(false);
  expect(speaks(email('Your {{ event.total }}', { on: false }))).toBe(false);
  const didOrder: Condition = { kind: 'event', event: 'order.begun', done: true, since: { kind: 'ever' }, where: [] };
  expect(speaks(email('Your {{ event.total }}', { forWhom: didOrder }))).toBe(false);
  expect(speaks(email('Your {{ event.total }}', { forWhom: { kind: 'tag', tag: 'x', has: true } }))).toBe(true);
  const ofEvent = { kind: 'field', path: 'event.closes_at' };
  expect(speaks(timer(ofEvent, false))).toBe(true);
  expect(speaks(timer(ofEvent, true))).toBe(false);
  expect(speaks(timer({ kind: 'field', path: 'person.renews_on' }, false))).toBe(false);
  expect(speaks(timer({ kind: 'date', at: NOON }, false))).toBe(false);
});

test('the goal comes before the rule for leaving; the event that began the passage is neither', () => {
  const paid = { kind: 'event', event: 'order.paid', done: true, since: { kind: 'entry' }, where: [] } as const;
  const left = { kind: 'tag', tag: 'gone', has: true } as const;
  const run = (more: object) => prepare(sequence([emailStep('One')], more));
  const at = (f: ReturnType<typeof facts>) => asking(f, { enteredAt: NOON - 1000 });
  const bought = { ...event('order.paid', NOON - 500), id: 'e1' };
  expect(earlyEnd(run({ goal: paid, exit: left }), at(facts({ tags: ['gone'] }, { events: [bought] })))).toBe('goal');
  expect(earlyEnd(run({ goal: paid, exit: left }), at(facts({ tags: ['gone'] })))).toBe('exit');
  expect(earlyEnd(run({ goal: paid, exit: left }), at(facts()))).toBeNull();
  expect(earlyEnd(run({ goal: paid }), at(facts({}, { events: [bought] })), 'e1')).toBeNull();
  expect(earlyEnd(run({ goal: paid }), at(facts({}, { events: [bought] })), 'e2')).toBe('goal');
  expect(earlyEnd(run({}), at(facts({ tags: ['gone'] }, { events: [bought] })))).toBeNull();
});

test('a split gives nobody an arm that is closed, and each its share', () => {
  const split = (weights: number[]) =>
    ({
      id: 'split',
      kind: 'split',
      arms: weights.map((weight, i) => ({ id: `a${i}`, weight, steps: [] })),
    }) as unknown as SplitStep;
  const counts = (weights: number[]) => {
    const n = weights.map(() => 0);
    for (let p = 0; p < 4000; p++) {
      const arm = splitArm(split(weights), `person ${p}`);
      const at = Number(arm.id.slice(1));
      n[at] = (n[at] ?? 0) + 1;
    }
    return n;
  };
  const [a = 0, b = 0, none] = counts([1, 3, 0]);
  expect(none).toBe(0);
  // 4,000 draws: six standard deviations of a binomial share are 164.
  expect(Math.abs(a - 1000)).toBeLessThan(164);
  expect(Math.abs(b - 3000)).toBeLessThan(164);
  // Where nothing is open there is still an arm to stand in.
  expect(splitArm(split([0, 0]), 'p').id).toBe('a1');
});

test('a zone of one’s own counts where it is one; else the house’s is assumed', () => {
  expect(zoneOfPerson('Asia/Tokyo', 'Europe/Lisbon')).toEqual({ zone: 'Asia/Tokyo', zoneAssumed: false });
  expect(zoneOfPerson(null, 'Europe/Lisbon')).toEqual({ zone: 'Europe/Lisbon', zoneAssumed: true });
  expect(zoneOfPerson('Moon/Base', 'Europe/Lisbon')).toEqual({ zone: 'Europe/Lisbon', zoneAssumed: true });
});
