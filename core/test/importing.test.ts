import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { guessColumns, harmless, joinParts, readDate, readNumber, rowReader, type ImportPlan } from '@ascenso/core';

// What is written in a file is read back as it was: the judge writes it by the browser's own Intl.
const LOCALES = [
  ['en-GB', '.', 'dmy'],
  ['en-US', '.', 'mdy'],
  ['de-DE', ',', 'dmy'],
  ['pt-PT', ',', 'dmy'],
  ['fr-FR', ',', 'dmy'],
  ['sv-SE', ',', 'ymd'],
  ['de-CH', '.', 'dmy'],
] as const;

describe('numbers', () => {
  test.each(LOCALES)('as %s writes them, with groups and a currency', (locale, decimal) => {
    fc.assert(
      fc.property(fc.integer({ min: -99_999_999, max: 99_999_999 }), fc.boolean(), (cents, money) => {
        const n = cents / 100;
        const written = new Intl.NumberFormat(locale, {
          minimumFractionDigits: 2,
          ...(money ? { style: 'currency', currency: 'EUR' } : {}),
        })
          .format(n)
          .replace('\u2212', '-');
        // A sign before the currency is no part of the figures.
        fc.pre(!(money && n < 0));
        expect(readNumber(written, decimal)).toBeCloseTo(n, 6);
      }),
    );
  });

  test.each([
    ['1,5', '.', null],
    ['1.2.3', '.', null],
    ['12 Rua das Gáveas', '.', null],
    ['', '.', null],
    ['-', '.', null],
    ['1 234', '.', 1234],
    ['€ 12', '.', 12],
    ['0.5', '.', 0.5],
    [',5', ',', 0.5],
  ] as const)('“%s” with %s is %s', (text, decimal, wanted) => expect(readNumber(text, decimal)).toBe(wanted));
});

describe('dates', () => {
  test.each(LOCALES)('as %s writes them', (locale, _, order) => {
    fc.assert(
      fc.property(fc.date({ min: new Date('1900-01-01'), max: new Date('2100-12-31'), noInvalidDate: true }), (at) => {
        const written = new Intl.DateTimeFormat(locale, {
          year: 'numeric',
          month: '2-digit',
          day: '2-digit',
          timeZone: 'UTC',
        }).format(at);
        expect(readDate(written, order)).toBe(at.toISOString().slice(0, 10));
        // What begins with its year is read as it is, whatever the order.
        expect(readDate(at.toISOString(), order)).toBe(at.toISOString().slice(0, 10));
      }),
    );
  });

  test.each([
    ['29.2.2024', 'dmy', '2024-02-29'],
    ['29.2.2023', 'dmy', null],
    ['31/12/99', 'dmy', '1999-12-31'],
    ['1-1-30', 'dmy', '2030-01-01'],
    ['3/24/2026', 'dmy', null],
    ['3/24/2026', 'mdy', '2026-03-24'],
    ['24.03.2026 18:30', 'dmy', '2026-03-24'],
    ['yesterday', 'dmy', null],
    ['0024-01-01', 'ymd', null],
  ] as const)('%s read as %s is %s', (text, order, wanted) => expect(readDate(text, order)).toBe(wanted));
});

describe('columns are guessed', () => {
  const attributes = ['first_name', 'last_name', 'birthday', 'orders'].map((key) => ({
    key,
    label: key.replace('_', ' '),
  }));
  const becomes = (rows: string[][]) =>
    guessColumns(rows, attributes).columns.map(({ column: c }) => (c.to === 'attribute' ? c.key : c.to));

  test.each([
    [
      ['E-mail', 'Vorname', 'Nachname', 'Geburtstag'],
      ['a@b.example', 'Ana', 'Lopes', '24.3.1987'],
    ],
    [
      ['Correo', 'Nombre', 'Apellidos', 'cumpleaños'],
      ['a@b.example', 'Ana', 'Lopes', '24/3/1987'],
    ],
    [
      ['Email Address', 'First Name', 'Last Name', 'Birthday'],
      ['a@b.example', 'Ana', 'Lopes', '3/24/1987'],
    ],
  ])('by their headings, in several languages', (...rows) =>
    expect(becomes(rows)).toEqual(['email', 'first_name', 'last_name', 'birthday']),
  );

  test('by what stands in them, where nothing heads them', () => {
    const guess = guessColumns(
      [
        ['Ana', 'a@b.example', 'Europe/Lisbon'],
        ['Rui', 'c@d.example', 'Europe/Paris'],
      ],
      attributes,
    );
    expect(guess.heading).toBe(false);
    expect(guess.columns.map((c) => c.column.to)).toEqual(['nothing', 'email', 'zone']);
  });

  test('each attribute is one column’s; a postcode is no number; the order of dates is one that fits them all', () => {
    const rows = [
      ['Email', 'First name', 'Vorname', 'Postcode', 'Joined'],
      ['a@b.example', 'Ana', 'Ana', '01200', '03/04/2026'],
      ['c@d.example', 'Rui', 'Rui', '04000', '03/24/2026'],
    ];
    const guess = guessColumns(rows, attributes);
    expect(becomes(rows)).toEqual(['email', 'first_name', 'nothing', 'nothing', 'nothing']);
    expect(guess.columns.map((c) => c.type)).toEqual(['text', 'text', 'text', 'text', 'date']);
    expect(guess.days).toBe('mdy');
  });
});

/** How a file is written, but for its columns. */
const WRITTEN: Omit<ImportPlan, 'columns'> = {
  heading: true,
  days: 'ymd',
  decimal: '.',
  yes: ['yes'],
  no: ['no'],
  known: 'fill',
  lists: ['l1'],
  tags: ['fair'],
  consent: 'They signed a card.',
  starts: [],
};

test('a row is a whole person or a fault: no cell is taken where another cannot be', () => {
  const plan: ImportPlan = {
    ...WRITTEN,
    columns: [{ to: 'email' }, { to: 'attribute', key: 'orders' }, { to: 'tags' }, { to: 'lists' }],
  };
  const read = rowReader(plan, {
    attributes: new Map([['orders', { type: 'number', label: 'Orders', options: [] }]]),
    lists: new Map([['club', 'l2']]),
    now: Date.UTC(2026, 2, 6),
  });
  expect(read([' Ana@B.example ', '3', 'kit; kit, old', 'Club'])).toEqual({
    email: 'ana@b.example',
    attributes: { orders: 3 },
    zone: null,
    tags: ['fair', 'kit', 'old'],
    lists: ['l1', 'l2'],
    consentAt: null,
    mail: null,
  });
  expect(read(['ana@b.example', '', '', ''])).toMatchObject({ attributes: {}, tags: ['fair'], lists: ['l1'] });
  for (const [cells, why] of [
    [['ana@b.example', 'x', 'kit', ''], 'Orders: “x” is no number, written as 1,234.5.'],
    [['', '1', '', ''], 'There is no email address.'],
    [['ana@b.example', '1', '', 'Nowhere'], 'There is no list “Nowhere”.'],
    [['ana@b.example', '1', '', '', 'more'], 'There are 5 cells, and the first rows have 4.'],
  ] as const)
    expect(read(cells)).toEqual({ fault: why });
  // What one row was given does not stay with the next.
  expect(read(['rui@b.example', '', '', ''])).toMatchObject({ tags: ['fair'], lists: ['l1'] });
});

test('a consent that lies ahead is none: it would open an address that said no', () => {
  const plan: ImportPlan = {
    ...WRITTEN,
    columns: [{ to: 'email' }, { to: 'consent-at' }],
  };
  const now = Date.UTC(2026, 2, 6, 12);
  const read = rowReader(plan, { attributes: new Map(), lists: new Map(), now });
  expect(read(['ana@b.example', '2026-03-05'])).toMatchObject({ consentAt: Date.UTC(2026, 2, 5) });
  expect(read(['ana@b.example', '2026-03-06'])).toMatchObject({ consentAt: Date.UTC(2026, 2, 6) });
  for (const day of ['2026-03-08', '9999-12-31'])
    expect(read(['ana@b.example', day])).toEqual({
      fault: `“${day}” lies in the future: nobody can have consented then.`,
    });
});

describe('one way of writing numbers is a file’s', () => {
  const decided = (...numbers: string[]) => {
    const { decimal, either } = guessColumns([['email', 'points'], ...numbers.map((n) => ['a@b.example', n])], []);
    return [decimal, either];
  };
  test.each([
    [
      ['12', '7'],
      ['.', null],
    ],
    [
      ['1.000', '2.500'],
      [null, '1.000'],
    ],
    [['2,500'], [null, '2,500']],
    // One that can only be read one way says how all are read: 1.000 beside 2,50 is a thousand, beside 2.50 it is one.
    [
      ['1.000', '2,50'],
      [',', '1.000'],
    ],
    [
      ['1.000', '2.50'],
      ['.', '1.000'],
    ],
    [
      ['1.000.000', '2,500'],
      [',', '2,500'],
    ],
    [
      ['1,234.50', '2,500'],
      ['.', '2,500'],
    ],
    // No thousands begin with a nought.
    [['0,500'], [',', null]],
    [['0.125'], ['.', null]],
    [['€ 1.000'], [null, '€ 1.000']],
  ] as const)('%j: %j', (numbers, wanted) => expect(decided(...numbers)).toEqual(wanted));

  test('what is no column of numbers says nothing: a street, a day, a version', () => {
    expect(decided('Rua das Flores 3,50', '2.500')).toEqual(['.', null]);
    expect(decided('24.03.2026')).toEqual(['.', null]);
  });

  test('each number that could be another one is told; of the other way is none', () => {
    const told: string[] = [];
    const read = rowReader(
      { ...WRITTEN, decimal: ',', columns: [{ to: 'email' }, { to: 'attribute', key: 'orders' }] },
      {
        attributes: new Map([['orders', { type: 'number', label: 'Orders', options: [] }]]),
        lists: new Map(),
        now: 0,
        either: (text) => told.push(text),
      },
    );
    expect(read(['a@b.example', '1.000'])).toMatchObject({ attributes: { orders: 1000 } });
    expect(read(['a@b.example', '2,500'])).toMatchObject({ attributes: { orders: 2.5 } });
    expect(read(['a@b.example', '12'])).toMatchObject({ attributes: { orders: 12 } });
    expect(read(['a@b.example', '2.50'])).toEqual({ fault: 'Orders: “2.50” is no number, written as 1.234,5.' });
    expect(told).toEqual(['1.000', '2,500']);
  });
});

test('“mail” heads addresses, and beside them whether they get mail', () => {
  const becomes = (rows: string[][]) => guessColumns(rows, []).columns.map((c) => c.column.to);
  expect(becomes([['Mail'], ['a@b.example']])).toEqual(['email']);
  expect(
    becomes([
      ['email', 'mail'],
      ['a@b.example', 'unsubscribed'],
    ]),
  ).toEqual(['email', 'mail']);
  expect(
    becomes([
      ['email', 'mail'],
      ['a@b.example', 'every Friday'],
    ]),
  ).toEqual(['email', 'nothing']);
});

test('who gets no mail elsewhere is told, in the words of other programs, too', () => {
  const read = rowReader(
    { ...WRITTEN, columns: [{ to: 'email' }, { to: 'mail' }] },
    { attributes: new Map(), lists: new Map(), now: 0 },
  );
  for (const [words, mail] of [
    ['ok', 'ok'],
    ['Subscribed', 'ok'],
    ['unsubscribed', 'unsubscribed'],
    ['Opt-out', 'unsubscribed'],
    ['Hard bounce', 'bounced'],
    ['marked as spam', 'complained'],
  ])
    expect(read(['a@b.example', words ?? ''])).toMatchObject({ mail });
  expect(read(['a@b.example', 'perhaps'])).toEqual({
    fault: '“perhaps” does not say whether they get mail: ok, unsubscribed, bounced, complained.',
  });
});

test('what a cell of ours says is read as it was, formulas and several things in one among them', () => {
  const words = fc
    .string({ unit: fc.constantFrom(...'=+-@\'",;|\n a1＝'), minLength: 1, maxLength: 8 })
    .filter((t) => t.trim() === t && t !== '');
  const read = rowReader(
    { ...WRITTEN, tags: [], columns: [{ to: 'email' }, { to: 'attribute', key: 'note' }, { to: 'tags' }] },
    { attributes: new Map([['note', { type: 'text', label: 'Note', options: [] }]]), lists: new Map(), now: 0 },
  );
  fc.assert(
    fc.property(words, fc.uniqueArray(words, { maxLength: 4 }), (note, tags) => {
      const cells = ['a@b.example', harmless(note), harmless(joinParts(tags))];
      expect(read(cells)).toMatchObject({ attributes: { note }, tags });
      // No cell begins as a formula does (OWASP, CSV injection).
      for (const cell of cells) expect(cell).not.toMatch(/^[=+\-@＝＋－＠\t\r]/);
    }),
  );
});
