import { describe, expect, test } from 'vitest';
import { runChecks } from '../src/checks/index.ts';
import { paragraphs, type Block, type Email } from '../src/email/index.ts';
import { blankOffer } from '../src/offer/index.ts';
import { checkCase, context as around, good, type Case } from './check-case.ts';
import { DAY, sequence } from './support.ts';

// What a tired hand sends: each is found, and what only looks like it is let pass. Written from the need.
const NOW = Date.UTC(2026, 2, 12, 9);
const once = [{ kind: 'moment' as const, when: 'published' as const, day: '', minute: 0, zone: null }];
const words = (text: string): Block => ({ kind: 'text', id: 'text', doc: paragraphs(text) });
const button = (address: string, id = 'go'): Block => ({ kind: 'button', id, label: 'See the kits', address });

function found(check: string, change: Partial<Email>, more: Block[] = [], doc: Parameters<typeof sequence>[1] = {}) {
  const offer = { ...blankOffer(), codes: { kind: 'shared' as const, code: 'FOLD20' } };
  const context = around({ now: NOW, offers: [{ id: 'o', name: 'Kit', offer, left: null, waiting: 0 }] });
  return runChecks(sequence([good(change, more)], doc), context).filter((f) => f.check === check);
}

const one = (change: Partial<Email>, more: Block[] = []) => sequence([good(change, more)]);
const cases: Case[] = [
  {
    check: 'test-words',
    what: 'a subject that says it is a test',
    bad: one({ subject: 'TEST do not send' }),
    near: one({ subject: 'Test your glue' }),
    place: { part: 'subject' },
    level: 'error',
  },
  {
    check: 'dates-over',
    what: 'a day that is over',
    bad: one({}, [words('20 percent until 1 March.')]),
    near: one({}, [words('20 percent until 1 March 2019 only.')]),
    place: { block: 'text' },
    level: 'error',
    context: { now: NOW },
  },
  {
    check: 'stray-code',
    what: 'a code that no offer gives',
    bad: one({}, [words('Use the code SPRING20.')]),
    near: one({}, [words('The paper is A4, and the code is on the card.')]),
    place: { block: 'text' },
    level: 'warning',
  },
  {
    check: 'not-public',
    what: 'a button to where the site is tried out',
    bad: one({}, [button('https://staging.foldwell.example/')]),
    near: one({}, [button('https://foldwell.example/staging')]),
    place: { block: 'go', part: 'address' },
    level: 'error',
  },
  {
    check: 'odd-host',
    what: 'a host that is nearly the others’',
    bad: one({}, [button('https://foldwell.example/1', 'a'), button('https://foldwel.example/2')]),
    near: one({}, [button('https://foldwell.example/1', 'a'), button('https://papermill.example/2')]),
    place: { block: 'go', part: 'address' },
    level: 'warning',
  },
];
test.each(cases)('$check: $what', checkCase);

test('the email that went to 198 of 202: six things are found before it goes', () => {
  const doc = sequence(
    [
      good({ subject: 'TEST do not send: 20 percent until 1 March' }, [
        words('Hello %FNAME%, use the code SPRING20 for 20% off.'),
        button('https://staging.foldwell.example/kits'),
      ]),
    ],
    { triggers: once },
  );
  const all = runChecks(doc, around({ now: NOW })).map((f) => [f.check, f.level]);
  for (const [check, level] of [
    ['test-words', 'error'],
    ['dates-over', 'error'],
    ['fill-in-words', 'error'],
    ['stray-code', 'warning'],
    ['not-public', 'error'],
  ])
    expect(all).toContainEqual([check, level]);
});

describe('words of a test', () => {
  test.each([
    'TEST do not send',
    'Test: spring letter',
    '[DRAFT] Hello',
    'A word, please ignore this email',
    'Nicht versenden!',
  ])('in a subject: %s', (subject) =>
    expect(found('test-words', { subject })).toMatchObject([{ level: 'error', place: { part: 'subject' } }]),
  );
  test.each([
    'Test your glue before you bind',
    'How we test paper',
    'The latest letters',
    'DOES YOUR GLUE HOLD? TEST IT',
    'A contest',
  ])('not of one: %s', (subject) => expect(found('test-words', { subject })).toEqual([]));
  test('in the text', () => expect(found('test-words', {}, [words('Hello. This is a TEST.')])).toHaveLength(1));
});

describe('places for a value of other programs', () => {
  test.each([
    'Hello %FNAME%',
    'Hello %first_name%',
    'Hello [FNAME]',
    'Hello [FIRST NAME]',
    'Hello [[first name]]',
    'Hello <<Name>>',
    'Hello {name}',
    'Hello ${firstName}',
  ])('%s', (text) => expect(found('fill-in-words', {}, [words(text)])).toHaveLength(1));
  test.each(['20% off, 30% less', 'Sizes [A4], [B5 ] and [see below]', 'a < b << c', 'The set {a, b}', '100%'])(
    'not one: %s',
    (text) => expect(found('fill-in-words', {}, [words(text)])).toEqual([]),
  );
});

describe('days that are over, on 12 March 2026', () => {
  test.each([
    ['en', 'until 1 March'],
    ['en', 'It ends on Friday, 6 March.'],
    ['en', 'by March 1st, 2026'],
    ['de', 'bis zum 1. März'],
    ['pt-PT', 'até 1 de março'],
    ['fr', 'jusqu’au 1 mars'],
    ['es', 'hasta el 1 de marzo de 2026'],
    ['it', 'fino al 1 marzo'],
    ['nl', 'tot 1 maart'],
  ] as const)('%s: %s', (language, text) =>
    expect(found('dates-over', { language }, [words(`20 percent ${text}`)], { triggers: once })).toMatchObject([
      { level: 'error' },
    ]),
  );
  test.each([
    'until 13 March',
    'until 31 December',
    'until 1 March 2019 we were in Porto',
    'On 1 March we began',
    'until 12 March',
    'until 11 March',
  ])('not over, or history: %s', (text) =>
    expect(found('dates-over', {}, [words(text)], { triggers: once })).toEqual([]),
  );
  test('of an email that goes out again and again, a day ahead is told as well', () => {
    expect(found('dates-over', {}, [words('until 1 April')])).toMatchObject([{ level: 'warning' }]);
    const later = runChecks(
      sequence([good({}, [words('until 20 March')])], {
        triggers: [{ ...once[0], when: 'day', day: '2026-03-25' } as never],
      }),
      around({ now: NOW }),
    );
    expect(later.filter((f) => f.check === 'dates-over')).toMatchObject([{ level: 'error' }]);
    expect(NOW % DAY).toBeGreaterThan(0);
  });
});

describe('what reads as a code', () => {
  test.each(['Use the code SPRING20', '20% off with K7-4XQ2', 'Ihr Gutscheincode: WINTER25'])('%s', (text) =>
    expect(found('stray-code', {}, [words(text)])).toHaveLength(1),
  );
  test.each([
    'Use the code FOLD20',
    'Paper of A4 and B5, 20% off',
    'Order EU2024-17 has left',
    'Use the code {{ offer.code }}',
    'See https://foldwell.example/SPRING20 for the code',
  ])('not one: %s', (text) => expect(found('stray-code', {}, [words(text)])).toEqual([]));
});

describe('machines that readers cannot reach', () => {
  test.each([
    'https://staging.foldwell.example/',
    'http://10.0.0.5/x',
    'http://192.168.1.4',
    'http://shop.local/',
    'https://shop-dev.foldwell.example',
    'http://[fd00::1]/',
    'https://foldwell.test/',
  ])('%s', (address) =>
    expect(found('not-public', {}, [button(address)])).toMatchObject([{ level: 'error', place: { block: 'go' } }]),
  );
  test.each([
    'https://foldwell.example/dev',
    'https://test.de/',
    'https://www.foldwell.example',
    'http://93.184.216.34/',
    'https://press.foldwell.example',
    '{{ event.page }}',
  ])('not one: %s', (address) => expect(found('not-public', {}, [button(address)])).toEqual([]));
  test('a name that is nearly that of the others', () => {
    const many = [button('https://foldwell.example/1', 'a'), button('https://foldwell.example/2', 'b')];
    expect(found('odd-host', {}, [...many, button('https://foldwel.example/3')])).toMatchObject([
      { place: { block: 'go' } },
    ]);
    expect(found('odd-host', {}, [...many, button('https://fodlwell.example/3')])).toHaveLength(1);
    expect(found('odd-host', {}, [...many, button('https://papermill.example/3')])).toEqual([]);
  });
});
