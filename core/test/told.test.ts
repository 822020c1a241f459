import { expect, test } from 'vitest';
import { traceSentence, type TraceCode, type TraceNames } from '../src/sequence/index.ts';
import { NOON } from './support.ts';

// Reasons as a reader of a story has them before their eyes, written by hand.
const called = (what: string) => (id: string) => `${what} ${id}`;
const names: TraceNames = {
  arm: called('arm'),
  filter: () => 'has the tag “teacher”',
  forWhom: () => 'has the tag “teacher”',
  zone: 'Europe/Lisbon',
  list: called('list'),
  event: called('event'),
  step: called('step'),
  segment: called('segment'),
  offer: called('offer'),
  sequence: called('sequence'),
  file: called('file'),
  form: called('form'),
  email: (of: string, email: string) => `email ${email} of ${of}`,
};
const said = (code: TraceCode, data: Record<string, string | number | boolean> = {}, step: string | null = 's') =>
  traceSentence({ at: NOON, step, code, data }, names);

test.each([
  [{ list: 'l', what: 'joined' }, ': confirmed “list l”'],
  [{ list: 'l', what: 'left' }, ': left “list l”'],
  [{ event: 'e' }, ': “event e” happened'],
  [{ tag: 'kit', what: 'added' }, ': the tag “kit” was added'],
  [{ attribute: 'paper_plan' }, ': paper plan became what it waits for'],
  [{ segment: 'g' }, ': came into the segment “segment g”'],
  [{ date: 'born_on' }, ': the day of “born on” was near, here or past'],
  [{ unfollowed: 'a', without: 'b' }, ': “event a”, and no “event b” behind it'],
  [{ quiet: 'opened', days: 90 }, ': 90 days without opening an email'],
  [{ quiet: 'clicked', days: 1 }, ': 1 day without a click'],
  [{ quiet: 'order.paid', days: 30 }, ': 30 days without “event order.paid”'],
  [{ reading: 'opened' }, ': opened an email'],
  [{ reading: 'clicked', of: 'q', email: 'm' }, ': clicked “email m of q”'],
  [{ once: true }, ': it goes out once, to everybody whom it is for'],
  [{ by: 'hand' }, ': added by hand'],
  [{ by: 'q' }, ': started by “sequence q”'],
  [{}, ''],
])('who came in by %j is told so', (data, why) => {
  expect(said('entered', data as Record<string, string>)).toBe(`Joined the sequence${why}.`);
  expect(said('held-out', data as Record<string, string>)).toBe(
    `Would have joined${why}, but is one of those held out to measure what the sequence adds.`,
  );
});

test.each([
  ['email-sent', {}, '“step s” went out: the step was reached and its window was open.'],
  ['email-sent', { became: 'sent' }, '“step s” went out: the step was reached and its window was open.'],
  [
    'email-sent',
    { became: 'queued' },
    '“step s” was due: the step was reached and its window was open. It waits to be handed over.',
  ],
  [
    'email-sent',
    { became: 'leased' },
    '“step s” was due: the step was reached and its window was open. It waits to be handed over.',
  ],
  ['email-sent', { became: 'refused' }, '“step s” was due: the step was reached and its window was open.'],
  [
    'email-yields',
    { until: NOON, zone: 'Europe/Lisbon', why: 'cap' },
    '“step s” is put off until Fri 6 Mar, 12:00 in Lisbon: they had as many emails that day as one person may get.',
  ],
  [
    'email-yields',
    { until: NOON, zone: 'Europe/Lisbon', why: 'first', sequence: 'q', assumed: true },
    '“step s” is put off until Fri 6 Mar, 12:00 in Lisbon (assumed: no time zone is known): “sequence q” goes first that day.',
  ],
  ['attribute-set', { key: 'paper_plan', value: '' }, 'The value for paper plan was taken away.'],
  ['attribute-set', { key: 'paper_plan', value: 'club' }, 'The value for paper plan was set to “club”.'],
  ['points-added', { points: -1 }, 'Lost 1 point.'],
  ['points-added', { points: 2 }, 'Got 2 points.'],
  ['start-refused', { sequence: 'q', why: 'not-live' }, '“sequence q” was not started: it is not live.'],
  ['start-refused', { sequence: 'q', why: 'rules' }, '“sequence q” was not started: its rules did not let them in.'],
  ['branch-taken', { arm: 'a', event: 'e', at: NOON }, 'Took the arm “arm a”: “event e” on 6 March.'],
  ['branch-taken', { arm: 'a' }, 'Took the arm “arm a”.'],
  ['split-taken', { arm: 'a', decided: true }, 'Took the arm “arm a” of “step s”: the test was decided for it.'],
  ['split-taken', { arm: 'a' }, 'Took the arm “arm a” of “step s”: by lot, the same for this person every time.'],
  [
    'email-refused',
    { what: 'sender', answer: '550 no' },
    '“step s” was not taken: the receiving server refused the sender with “550 no”. The address itself is not at fault.',
  ],
  [
    'email-refused',
    { what: 'session', answer: '550 no' },
    '“step s” was not taken: the receiving server refused to talk to us with “550 no”. The address itself is not at fault.',
  ],
  [
    'email-refused',
    { what: 'email', answer: '550 no' },
    '“step s” was not taken: the receiving server refused the email with “550 no”. The address itself is not at fault.',
  ],
  ['date-passed', { leaves: true }, 'Left at “step s”: that date had passed already.'],
  ['date-missing', { leaves: false }, 'Went on at once at “step s”: there is no such date for them.'],
] as const)('%s %j', (code, data, sentence) => expect(said(code, data)).toBe(sentence));
