import { describe, expect, test } from 'vitest';
import { runChecks } from '../src/checks/index.ts';
import type { Condition } from '../src/audience/index.ts';
import { blockKinds, compileEmail, paragraphs, plainStyle, type Block } from '../src/email/index.ts';
import type { Action, Step } from '../src/sequence/index.ts';
import { checkCase, context, good, type Case } from './check-case.ts';
import { id, sequence, waitStep } from './support.ts';

const button = (address: string): Block => ({ kind: 'button', id: 'button', label: 'See the kits', address });
const image = (alt: string, link = ''): Block => ({ kind: 'image', id: 'image', file: 'guide', alt, link, width: 300 });
const untilOpened = (step: string): Step => ({
  id: 'until',
  on: true,
  note: '',
  kind: 'until',
  name: '',
  condition: { kind: 'email', step, what: 'opened', did: true },
  amount: 3,
  unit: 'days',
  arms: [
    { id: id(), steps: [] },
    { id: id(), steps: [] },
  ],
});
const forked = (first: Step, second: Step[]): Step => ({
  id: 'fork',
  on: true,
  note: '',
  kind: 'branch',
  name: '',
  arms: [
    { id: id(), condition: { kind: 'tag', tag: 'teacher', has: true }, steps: [first] },
    { id: id(), condition: null, steps: second },
  ],
});
const branchOn = (step: string): Step => ({
  id: 'branch',
  on: true,
  note: '',
  kind: 'branch',
  name: '',
  arms: [
    { id: id(), condition: { kind: 'email', step, what: 'opened', did: true }, steps: [] },
    { id: id(), condition: null, steps: [] },
  ],
});
const asked = good();
const act = (action: Action): Step => ({ id: 'act', on: true, note: '', kind: 'action', action });
const left: Step = { id: 'leave', on: true, note: '', kind: 'leave' };

const file = (name: string, size: number) => ({ id: name, mime: 'application/pdf', size, width: null, height: null });
const one = (step: Step, ...more: Step[]) => sequence([step, ...more]);

const plain = one(good());
const ordered = {
  kind: 'event' as const,
  event: 'order.paid',
  done: true,
  since: { kind: 'entry' as const },
  where: [],
};
const arms = (first: Condition, second: Condition): Step => ({
  id: 'fork',
  on: true,
  note: '',
  kind: 'branch',
  name: '',
  arms: [first, second, null].map((condition) => ({ id: id(), condition, steps: [] })),
});
const timerTo = (wall: string): Block => ({
  ...blockKinds.timer.blank(() => id()),
  to: { kind: 'date', wall, zone: 'Europe/Lisbon' },
});

const byEvent = [{ kind: 'event' as const, event: 'order.begun', where: [] }];
const toLetters = { ...plain, list: 'letters', triggers: byEvent };
const told = (text: string) => one(good(), act({ type: 'tell-team', to: 'ines@foldwell.example', text }));

const cases: Case[] = [
  {
    check: 'whom-it-mails',
    what: 'a list that nobody has confirmed, while others have readers',
    bad: toLetters,
    near: toLetters,
    place: { step: null, part: 'list' },
    level: 'error',
    context: { confirmed: { letters: 0, club: 12 } },
  },
  {
    check: 'raw-brace-in-note',
    what: 'a field left open in what the team is told',
    bad: told('{{ subscriber.first_name came'),
    near: told('{{ subscriber.first_name }} came'),
    place: { step: 'act', part: 'text' },
    level: 'error',
  },
  {
    check: 'unknown-field-in-note',
    what: 'a field that nobody has, told to the team',
    bad: told('{{ subscriber.nickname }} came'),
    near: told('{{ subscriber.first_name }} came'),
    place: { step: 'act', part: 'text' },
    level: 'error',
  },
  {
    check: 'no-subject',
    what: 'white space is no subject',
    bad: one(good({ subject: '  ' })),
    near: one(good({ subject: 'A' })),
    place: { part: 'subject' },
    level: 'error',
  },
  {
    check: 'unknown-field',
    what: 'a field nobody has',
    bad: one(good({ subject: 'Hi {{ subscriber.firstname }}' })),
    near: one(good({ subject: 'Hi {{ subscriber.first_name | default: "reader" }}' })),
    place: { part: 'subject' },
    level: 'error',
  },
  {
    check: 'unknown-field',
    what: 'a field of an event when none starts it',
    bad: one(good({}, [button('https://foldwell.example/cart/{{ event.cart }}')])),
    near: one(good({}, [button('https://foldwell.example/cart/{{ sender.name }}')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'raw-brace',
    what: 'braces that are never closed',
    bad: one(good({ subject: 'Hi {{ subscriber.first_name' })),
    near: one(good({ subject: 'Hi { subscriber.first_name }' })),
    place: { part: 'subject' },
    level: 'error',
  },
  {
    check: 'missing-fallback',
    what: 'a hole where a name is not known',
    bad: one(good({ subject: 'Hi {{ subscriber.first_name }}' })),
    near: one(good({ subject: 'To {{ subscriber.email }}' })),
    place: { part: 'subject' },
    level: 'warning',
  },
  {
    check: 'fill-in-words',
    what: 'words of a pattern that nobody has filled in',
    bad: one(good({}, [{ kind: 'text', id: 'text', doc: paragraphs('Welcome to [your shop].') }])),
    near: one(good({}, [{ kind: 'text', id: 'text', doc: paragraphs('Welcome to [Foldwell], your shop.') }])),
    place: { block: 'text' },
    level: 'error',
  },
  {
    check: 'dead-link',
    what: 'no address at all',
    bad: one(good({}, [button('')])),
    near: one(good({}, [button('https://foldwell.example/')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'dead-link',
    what: 'a name that RFC 2606 keeps for documentation',
    bad: one(good({}, [button('https://www.example.com/kits')])),
    near: one(good({}, [button('https://example.foldwell.example/com')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'dead-link',
    what: 'half an address',
    repairs: true,
    bad: one(good({}, [button('foldwell.example/kits')])),
    near: one(good({}, [button('mailto:ines@foldwell.example')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'dead-link',
    what: 'javascript',
    bad: one(good({}, [button('javascript:alert(1)')])),
    near: one(good({}, [button('tel:+351 210 000 000')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'dead-link',
    what: 'a file that has gone',
    bad: one(good({}, [button('file:gone')])),
    near: one(good({}, [button('file:guide')])),
    place: { block: 'button' },
    level: 'error',
  },
  {
    check: 'missing-alt',
    what: 'a picture that says nothing to who cannot see it',
    bad: one(good({}, [image(' ')])),
    near: one(good({}, [image('A folded sheet')])),
    place: { block: 'image' },
    level: 'warning',
  },
  {
    check: 'no-unsubscribe',
    what: 'no footer',
    repairs: true,
    bad: one(good({ blocks: [{ kind: 'text', id: 't', doc: paragraphs('Hello') }] })),
    near: one(good()),
    place: {},
    level: 'error',
  },
  {
    check: 'no-unsubscribe',
    what: 'an empty postal address',
    bad: plain,
    near: plain,
    place: {},
    level: 'error',
    context: { style: { ...plainStyle, postalAddress: ' ' } },
  },
  {
    check: 'default-sender',
    what: 'nobody has looked at the sender yet',
    bad: plain,
    near: plain,
    place: { part: 'sender' },
    level: 'warning',
    context: { senders: [{ id: 'ines', isDefault: true, untouched: true, fields: {} }] },
  },
  {
    check: 'default-sender',
    what: 'a sender that has gone',
    bad: one(good({ sender: 'gone' })),
    near: one(good({ sender: 'ines' })),
    place: { part: 'sender' },
    level: 'error',
  },
  {
    check: 'asked-before-sent',
    what: 'a branch about an email behind it',
    bad: one(good(), waitStep(1), branchOn(asked.id), waitStep(1), asked),
    near: one(asked, waitStep(1), branchOn(asked.id), waitStep(1), good()),
    place: { step: 'branch' },
    level: 'error',
  },
  {
    check: 'asked-before-sent',
    what: 'a wait for an email behind it, as after two lessons were exchanged',
    bad: one(good(), untilOpened(asked.id), asked),
    near: one(asked, untilOpened(asked.id), good()),
    place: { step: 'until' },
    level: 'error',
  },
  {
    check: 'asked-before-sent',
    what: 'an email of another arm',
    bad: one(forked(asked, [waitStep(1), untilOpened(asked.id)])),
    near: one(forked(good(), [asked, waitStep(1), untilOpened(asked.id)])),
    place: { step: 'until' },
    level: 'error',
  },
  {
    check: 'asked-before-sent',
    what: 'an email that is switched off',
    bad: one({ ...asked, on: false }, good(), waitStep(1), branchOn(asked.id)),
    near: one(asked, good(), waitStep(1), branchOn(asked.id)),
    place: { step: 'branch' },
    level: 'error',
  },
  {
    check: 'asked-too-soon',
    what: 'asked in the minute it goes out',
    bad: one(asked, branchOn(asked.id)),
    near: one(asked, waitStep(1, 'minutes'), branchOn(asked.id)),
    place: { step: 'branch' },
    level: 'error',
  },
  {
    check: 'asked-too-soon',
    what: 'who gets an email, asked about one of the same minute',
    bad: one(asked, {
      ...good({ subject: 'Then' }),
      ...{ id: 'then', forWhom: { kind: 'email', step: asked.id, what: 'opened', did: false } },
    }),
    near: one(asked, waitStep(1, 'days'), {
      ...good({ subject: 'Then' }),
      ...{ id: 'then', forWhom: { kind: 'email', step: asked.id, what: 'opened', did: false } },
    }),
    place: { step: 'then' },
    level: 'error',
  },
  {
    check: 'same-minute',
    what: 'two emails with nothing between them',
    bad: one(good(), { ...good({ subject: 'And another' }), id: 'second' }),
    near: one(good(), waitStep(1, 'hours'), good({ subject: 'And another' })),
    place: { step: 'second' },
    level: 'warning',
  },
  {
    check: 'arm-never-taken',
    what: 'an arm that an earlier one swallows',
    bad: one(
      arms(
        { kind: 'tag', tag: 'buyer', has: true },
        {
          kind: 'all',
          of: [
            { kind: 'tag', tag: 'buyer', has: true },
            { kind: 'tag', tag: 'teacher', has: true },
          ],
        },
      ),
    ),
    near: one(
      arms(
        {
          kind: 'all',
          of: [
            { kind: 'tag', tag: 'buyer', has: true },
            { kind: 'tag', tag: 'teacher', has: true },
          ],
        },
        { kind: 'tag', tag: 'buyer', has: true },
      ),
    ),
    place: { step: 'fork' },
    level: 'warning',
  },
  {
    check: 'arm-never-taken',
    what: 'an arm for those who have reached the goal',
    bad: { ...one(arms(ordered, { kind: 'tag', tag: 'x', has: true })), goal: ordered },
    near: { ...one(arms({ kind: 'tag', tag: 'y', has: true }, { kind: 'tag', tag: 'x', has: true })), goal: ordered },
    place: { step: 'fork' },
    level: 'warning',
  },
  {
    check: 'arm-never-taken',
    what: 'the goal of this passage, and not what was done ever before',
    bad: { ...one(arms(ordered, { kind: 'tag', tag: 'x', has: true })), goal: ordered },
    near: {
      ...one(arms({ ...ordered, since: { kind: 'ever' } }, { kind: 'tag', tag: 'x', has: true })),
      goal: { ...ordered, since: { kind: 'ever' } },
    },
    place: { step: 'fork' },
    level: 'warning',
  },
  {
    check: 'same-minute',
    what: 'one of them by day only: at night they part',
    bad: one(good(), { ...good({ subject: 'And another' }), id: 'second' }),
    near: one(good(), { ...good({ subject: 'And another' }), window: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 } }),
    place: { step: 'second' },
    level: 'warning',
  },
  {
    check: 'no-unsubscribe',
    what: 'a source with the name of the house and not its street',
    bad: one(good({ mode: 'html', html: '<p>Foldwell Bindery</p><a href="{{ links.unsubscribe }}">Stop</a>' })),
    near: one(good({ mode: 'html', html: '<p>Rua das Gáveas 12</p><a href="{{ links.unsubscribe }}">Stop</a>' })),
    place: { part: 'source' },
    level: 'error',
    context: { style: { ...plainStyle, postalAddress: 'Foldwell Bindery, Rua das Gáveas 12, Lisboa' } },
  },
  {
    check: 'timer-passed',
    what: 'a timer to a day before the email goes out',
    bad: one(
      good({}, [timerTo('2026-03-07T18:00')]),
      waitStep(3, 'days'),
      good({ subject: 'Late' }, [timerTo('2026-03-08T18:00')]),
    ),
    near: one(
      good({}, [timerTo('2026-03-07T18:00')]),
      waitStep(1, 'days'),
      good({ subject: 'In time' }, [timerTo('2026-03-08T18:00')]),
    ),
    place: { part: 'counts to' },
    level: 'error',
    context: { now: Date.UTC(2026, 2, 6, 12) },
  },
  {
    check: 'no-unsubscribe',
    what: 'a source of one’s own without the postal address',
    bad: one(good({ mode: 'html', html: '<p>Hello</p><a href="{{ links.unsubscribe }}">Stop</a>' })),
    near: one(
      good({
        mode: 'html',
        html: '<p>Hello</p><p>RUA DAS GÁVEAS 12<br>Lisboa</p><a href="{{ links.unsubscribe }}">Stop</a>',
      }),
    ),
    place: { part: 'source' },
    level: 'error',
  },
  {
    check: 'never-reached',
    what: 'everyone has left',
    bad: one(good(), left, good({ subject: 'Nobody reads this' })),
    near: one(good(), good(), left),
    place: {},
    level: 'warning',
  },
  {
    check: 'too-heavy',
    what: 'over 100 kB',
    bad: one({ ...good(), id: 'big' }),
    near: one({ ...good(), id: 'fits' }),
    place: { step: 'big' },
    level: 'warning',
    context: { bytes: { big: 100_001, fits: 100_000 } },
  },
  {
    check: 'asked-unseen',
    what: 'clicks are not counted, and asked for',
    bad: sequence([
      { ...asked, email: { ...asked.email, uncounted: ['openings', 'clicks'] } },
      waitStep(1),
      branchOn(asked.id),
    ]),
    near: sequence([asked, waitStep(1), branchOn(asked.id)]),
    place: { step: 'branch' },
    level: 'error',
  },
  {
    check: 'asked-unseen',
    what: 'openings of text alone are asked for: only clicks tell of them',
    bad: sequence([{ ...asked, email: { ...asked.email, mode: 'text' } }, waitStep(1), branchOn(asked.id)]),
    near: sequence([{ ...asked, email: { ...asked.email, uncounted: ['clicks'] } }, waitStep(1), branchOn(asked.id)]),
    place: { step: 'branch' },
    level: 'warning',
  },
  {
    check: 'heavy-attachments',
    what: 'more than many servers take',
    bad: one(good({ attachments: ['book', 'guide'] })),
    near: one(good({ attachments: ['guide'] })),
    place: { part: 'attachments' },
    level: 'error',
    context: { files: [file('book', 7_000_000), file('guide', 90_000)] },
  },
  {
    check: 'heavy-attachments',
    what: 'over a megabyte',
    bad: one(good({ attachments: ['book'] })),
    near: one(good({ attachments: ['less'] })),
    place: { part: 'attachments' },
    level: 'warning',
    context: { files: [file('book', 1_000_001), file('less', 1_000_000)] },
  },
  {
    check: 'heavy-attachments',
    what: 'a file that is gone',
    bad: one(good({ attachments: ['gone', 'guide'] })),
    near: one(good({ attachments: ['guide'] })),
    place: { part: 'attachments' },
    level: 'error',
    repairs: true,
  },
  {
    check: 'unfinished',
    what: 'nothing starts it',
    bad: sequence([good()], { triggers: [{ kind: 'list', list: '', what: 'joined' }] }),
    near: sequence([good()]),
    place: { part: 'trigger' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'no email would go out',
    bad: sequence([waitStep(1), { ...good(), on: false }]),
    near: sequence([waitStep(1), good()]),
    place: {},
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a tag without a name',
    bad: one(good(), act({ type: 'add-tag', tag: ' ' })),
    near: one(good(), act({ type: 'add-tag', tag: 'x' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a list that is not there',
    bad: one(good(), act({ type: 'join-list', list: 'gone' })),
    near: one(good(), act({ type: 'join-list', list: 'letters' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'the second of two triggers',
    bad: sequence([good()], { triggers: [{ kind: 'hand' }, { kind: 'segment', segment: 'gone' }] }),
    near: sequence([good()], { triggers: [{ kind: 'hand' }, { kind: 'segment', segment: 'quiet' }] }),
    place: { part: 'trigger' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a goal that asks for no event',
    bad: sequence([good()], { goal: { kind: 'tag', tag: '', has: true } }),
    near: sequence([good()], { goal: { kind: 'tag', tag: 'x', has: true } }),
    place: { part: 'trigger' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'nobody to tell',
    bad: one(good(), act({ type: 'tell-team', to: 'the team', text: 'Look' })),
    near: one(good(), act({ type: 'tell-team', to: 'ines@foldwell.example', text: 'Look' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'an address that is none',
    bad: one(good(), act({ type: 'call-webhook', url: 'foldwell.example' })),
    near: one(good(), act({ type: 'call-webhook', url: 'https://foldwell.example/hook' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'starts-in-a-circle',
    what: 'a sequence that starts this one again',
    bad: one(good(), act({ type: 'start-sequence', sequence: 'back' })),
    near: one(good(), act({ type: 'start-sequence', sequence: 'on' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'starts-what-is-not-live',
    what: 'a sequence that nobody can enter',
    bad: one(good(), act({ type: 'start-sequence', sequence: 'draft' })),
    near: one(good(), act({ type: 'stop-sequence', sequence: 'draft' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'starts-without-event',
    what: 'a sequence about a cart that nobody left',
    bad: one(good(), act({ type: 'start-sequence', sequence: 'cart' })),
    near: one(good(), act({ type: 'start-sequence', sequence: 'on' })),
    place: { step: 'act' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a branch that asks about an email of another sequence',
    bad: one(good(), waitStep(1), branchOn('elsewhere')),
    near: one(asked, waitStep(1), branchOn(asked.id)),
    place: { step: 'branch' },
    level: 'error',
  },
  {
    check: 'unfinished',
    what: 'a branch that asks nothing',
    bad: one(good(), waitStep(1), branchOn('')),
    near: one(asked, waitStep(1), branchOn(asked.id)),
    place: { step: 'branch' },
    level: 'error',
  },
];

describe('each check finds its failing sample, at its place, and lets the near miss pass', () => {
  test.each(cases)('$check: $what', checkCase);

  test('what is switched off is not spoken of', () => {
    const off = { ...good({ subject: '' }, [button('')]), on: false };
    expect(runChecks(sequence([good(), off]), context()).map((f) => f.check)).toEqual(['step-off']);
  });

  test('errors come before warnings', () => {
    const levels = runChecks(
      one(good({ subject: 'Hi {{ subscriber.skill }}' }, [button(''), image('')])),
      context(),
    ).map((f) => f.level);
    expect(levels).toEqual([...levels].sort());
    expect(new Set(levels).size).toBe(2);
  });
});

describe('whom it mails', () => {
  const mailing = (list: string | null, confirmed: Record<string, number>, more: object = {}) =>
    runChecks({ ...plain, list, ...more }, context({ confirmed }))
      .filter((f) => f.check === 'whom-it-mails')
      .map((f) => f.level);
  const joins = { triggers: [{ kind: 'list', list: 'letters', what: 'joined' }] };
  const byEvent = { triggers: [{ kind: 'event', event: 'order.begun', where: [] }] };
  test.each([
    ['a list with somebody on it', 'letters', { letters: 1, course: 0 }, byEvent, []],
    ['service mail', null, { letters: 0, course: 9 }, byEvent, []],
    ['nothing chosen', '', { letters: 5 }, byEvent, ['error']],
    ['a list that is gone', 'gone', { letters: 5 }, byEvent, ['error']],
    ['a list with nobody on it, where others have somebody', 'letters', { letters: 0, course: 9 }, byEvent, ['error']],
    ['a list with nobody on it, as on all', 'letters', { letters: 0, course: 0 }, byEvent, ['warning']],
    ['one with nobody on it yet, by whose joining it starts', 'letters', { letters: 0, course: 9 }, joins, []],
  ])('%s', (_what, list, confirmed, more, levels) => {
    expect(mailing(list, confirmed, more)).toEqual(levels);
  });
});

describe('service mail', () => {
  const found = (list: string | null, email: object) =>
    runChecks({ ...one(good(email)), list }, context())
      .filter((f) => f.check === 'no-unsubscribe')
      .map((f) => f.place.part);
  const html = { mode: 'html', html: '<p>Your repair is done. Rua das Gáveas 12, Lisboa</p>' };
  test('cannot be stopped, so no link for it is asked for; whoever sends it is still said', () => {
    expect(found('letters', html)).toEqual(['source']);
    expect(found(null, html)).toEqual([]);
    expect(found(null, { blocks: [] })).toEqual(['footer']);
  });

  test('its footer offers none', async () => {
    const written = async (service: boolean) => {
      const { html: program, text } = await compileEmail(good().email, context().style, { service });
      return JSON.stringify([program, text]);
    };
    expect(await written(false)).toMatch(/Unsubscribe/);
    expect(await written(true)).not.toMatch(/nsubscribe/);
    expect(await written(true)).toContain('Rua das Gáveas 12');
  });
});

test.each<[string, string | null]>([
  ['Hello [first name],', '[first name]'],
  ['See [link to the shop].', '[link to the shop]'],
  ['From <your company>', '<your company>'],
  ['TODO: say when', 'TODO'],
  ['Está todo listo.', null],
  ['On ____ at ____', '____'],
  ['Insert the price here', 'Insert the price here'],
  ['Your text here', 'Your text here'],
  ['You can insert the thread from the left.', null],
  ['Papers [laid and wove] of all weights', null],
  ['Write to us here.', null],
  ['Price: XXX', 'XXX'],
])('fill-in words: “%s”', (words, left) => {
  const found = runChecks(one(good({}, [{ kind: 'text', id: 'text', doc: paragraphs(words) }])), context())
    .filter((f) => f.check === 'fill-in-words')
    .map((f) => /“(.*?)”/.exec(f.message)?.[1]);
  expect(found).toEqual(left === null ? [] : [left]);
});
