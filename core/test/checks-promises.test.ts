import { describe, expect, test } from 'vitest';
import { runChecks, type CheckContext } from '../src/checks/index.ts';
import { paragraphs, type Block } from '../src/email/index.ts';
import {
  blankOffer,
  discountText,
  figureText,
  fromOlder,
  offerSchema,
  offerText,
  type Discount,
  type Offer,
} from '../src/offer/index.ts';
import { languages } from '../src/words/index.ts';
import { checkCase, context, good, type Case } from './check-case.ts';
import { NOON, sequence, waitStep } from './support.ts';

const none = { before: '', after: '' };
const kit: Offer = { ...blankOffer(), name: 'Kit offer', around: { before: '', after: 'one order' } };
const around = (some: Partial<Offer> = {}): Partial<CheckContext> => ({
  offers: [{ id: 'kit', name: 'Kit offer', offer: { ...kit, ...some }, left: null, waiting: 0 }],
  now: NOON,
});
const text = (words: string): Block => ({ kind: 'text', id: 'text', doc: paragraphs(words) });
const saying = (words: string, subject = 'Your kit') => good({ offer: 'kit', subject }, [text(words)]);
const one = (words: string, subject?: string) => sequence([saying(words, subject)]);
const days = (amount: number): Partial<Offer> => ({
  deadline: { kind: 'after', from: 'email', event: '', amount, unit: 'days', minute: null },
});

const cases: Case[] = [
  {
    check: 'other-figure',
    what: 'another figure than the shop takes',
    bad: one('It takes 15% off your order.'),
    near: one('It takes 10% off your order, and the paper is 100% linen.'),
    place: { block: 'text', part: 'text' },
    level: 'error',
    context: around(),
    repairs: true,
  },
  {
    check: 'other-figure',
    what: 'a bare figure in the subject, which may be no promise',
    bad: one('Here it is.', '15% for you, Marta'),
    near: one('Here it is.', '10% for you, Marta'),
    place: { block: null, part: 'subject' },
    level: 'warning',
    context: around(),
    repairs: true,
  },
  {
    check: 'other-figure',
    what: 'an amount off, where percent are given; a price beside the right figure is none',
    bad: one('Take €5 off your first kit.'),
    near: one('The kit is €18.00, and you have 10% off.'),
    place: { block: 'text' },
    level: 'error',
    context: around(),
  },
  {
    check: 'other-period',
    what: 'two days, where it closes after three',
    bad: one('Your code is good for two days.'),
    near: one('Your code is good for three days. It is sewn in two days.'),
    place: { block: 'text', part: 'text' },
    level: 'warning',
    context: around(days(3)),
  },
  {
    check: 'other-period',
    what: 'a period of an offer that never closes',
    bad: one('The offer ends in 48 hours.'),
    near: one('The offer does not end. Glue dries for 48 hours.'),
    place: { block: 'text' },
    level: 'warning',
    context: around({ deadline: { kind: 'never' } }),
  },
];

describe('what is written and what is given', () => {
  test.each(cases.map((c) => [`${c.check}: ${c.what}`, c] as const))('%s', (_name, c) => checkCase(c));

  const said = (words: string, some: Partial<Offer> = {}) =>
    runChecks(one(words), context(around(some)))
      .filter((f) => ['other-figure', 'other-period'].includes(f.check))
      .map((f) => /“(.*?)”/.exec(f.message)?.[1]);
  const amount: Discount = { kind: 'amount', value: 5, currency: 'EUR' };
  test.each<[string, Partial<Offer>, string[]]>([
    ['Sichere dir 15 % Rabatt.', {}, ['15 % Rabatt']],
    ['Sichere dir 10 % Rabatt.', {}, []],
    ['15% de desconto na sua encomenda.', {}, ['15% de desconto']],
    ['Ten percent off? No: 12.5 percent off.', {}, ['12.5 percent off']],
    ['15 % de remise, 5 € de remise.', { discount: amount }, ['15 % de remise']],
    ['Save €10 today.', { discount: amount }, ['Save €10']],
    ['Save $5 today.', { discount: amount }, ['Save $5']],
    ['It takes 15% less glue.', { discount: { kind: 'amount', value: 5, currency: 'EUR' } }, []],
    ['Save €5 today, on kits from €50.', { discount: amount }, []],
    ['10% off, and free delivery.', { discount: { kind: 'delivery' } }, ['10% off']],
    ['Noch zwei Tage gültig.', days(3), ['zwei Tage']],
    ['Noch drei Tage gültig.', days(3), []],
    ['Ta oferta jest ważna przez dwa dni.', days(2), []],
    ['A oferta é válida por 48 horas.', days(2), []],
    ['A 24-hour offer.', days(2), ['24-hour']],
    ['Valid for a week: 1 week.', days(7), []],
  ])('%s', (words, some, found) => expect(said(words, some)).toEqual(found));

  test('in a reminder the time that is left is right, the whole of it too, and what is neither is told', () => {
    const told = (words: string) =>
      runChecks(
        sequence([saying('Here is your code.'), waitStep(2), { ...saying(words), id: 'late' }]),
        context(around(days(3))),
      )
        .filter((f) => f.check === 'other-period')
        .map((f) => f.place.step);
    expect(told('One day left of your offer.')).toEqual([]);
    expect(told('Your code was good for three days.')).toEqual([]);
    expect(told('Two days left of your offer.')).toEqual(['late']);
  });
});

describe('the figure in words', () => {
  test('is written as each language writes it, and says the number of the offer', () => {
    for (const language of languages) {
      // Intl of this machine stands outside the project: figure and sign are its own, the space may be another.
      const plain = (t: string) => t.replace(/\s/g, ' ');
      const percent = new Intl.NumberFormat(language, { style: 'percent', maximumFractionDigits: 1 }).format(0.125);
      expect(plain(figureText({ kind: 'percent', value: 12.5 }, language))).toBe(plain(percent));
      const words = discountText({ kind: 'percent', value: 12.5 }, language);
      expect(plain(words)).toContain(plain(percent));
      expect(words.length).toBeGreaterThan(percent.length);
      const money = new Intl.NumberFormat(language, {
        style: 'currency',
        currency: 'EUR',
        maximumFractionDigits: 0,
      }).format(5);
      expect(plain(figureText({ kind: 'amount', value: 5, currency: 'EUR' }, language))).toBe(plain(money));
    }
    const deliveries = new Set(languages.map((l) => discountText({ kind: 'delivery' }, l)));
    expect(deliveries.size).toBe(languages.length - 1);
  });

  test('what is written around it stays around it', () => {
    expect(offerText(kit, 'en-GB')).toBe('10% off one order');
    expect(offerText({ ...kit, around: { before: 'Für dich:', after: 'auf alles' } }, 'de-AT')).toBe(
      'Für dich: 10\u00a0% Rabatt auf alles',
    );
    expect(offerText({ discount: { kind: 'other', words: 'a tin of wax' }, around: none }, 'fr')).toBe('a tin of wax');
  });

  const percent = { kind: 'percent', value: 10 } as const;
  test.each<[string, Parameters<typeof fromOlder>[0]['discount'], string]>([
    ['10% off one order', percent, '10% off one order'],
    ['For readers: 10 % off one order', percent, 'For readers: 10% off one order'],
    ['15% off', percent, '10% off (15% off)'],
    ['A little thank-you', percent, '10% off (A little thank-you)'],
    ['£2.50 off this order', { kind: 'amount', value: 2.5 }, '£2.50 off this order'],
    ['{{ gift }} A sheet of paper', { kind: 'other' }, 'gift  A sheet of paper'],
  ])('an offer of before, “%s”, says what the shop takes', (words, discount, now) => {
    const made = offerSchema.parse({ ...kit, around: undefined, ...fromOlder({ words, discount }) });
    expect(offerText(made, 'en')).toBe(now);
    if (discount.kind !== 'other') expect(made.discount).toMatchObject(discount);
  });
});
