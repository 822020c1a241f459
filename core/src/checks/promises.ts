import { walkBlocks } from '../email/index.ts';
import { discountText, figureText, type Deadline, type Discount } from '../offer/index.ts';
import { reaches } from '../sequence/index.ts';
import { DAY, HOUR, periodWords, roughLength } from '../time/index.ts';
import { languages, tableOf } from '../words/index.ts';
import { emailCheck, type EmailFinding } from './check.ts';
import { offerOf, spanOf, type Span } from './offers.ts';
import { rewrite } from './rewrite.ts';
import { saidIn } from './said.ts';

// Words of the ten languages that make a figure a promise, and a period one about an offer. Common practice, from memory.
const LESS =
  'off|discount|reduction|desconto|descuento|rebaja|remise|réduction|rabatt|nachlass|günstiger|sconto|korting|rabatu?|zniżk\\p{L}*';
const SAVE = 'save|poupe|ahorra|économisez|spare\\p{L}*|risparmi\\p{L}*|bespaar|oszczęd\\p{L}*|spara|spar';
const ABOUT =
  /\b(codes?|offers?|discount|valid|clos\p{L}+|expir\p{L}*|ends?|left|coupon|código|oferta|válid\p{L}*|caduca|quedan|resta\p{L}*|offre|valable|reste\p{L}*|angebot|gültig|läuft|noch|offerta|scad\p{L}*|ancora|aanbod|aanbieding|geldig|verloopt|nog|ważn\p{L}*|wygasa|jeszcze|erbjudande\p{L}*|gäller|kvar|tilbud\p{L}*|gælder|udløber|tilbage|endnu)(?!\p{L})/iu;
const NUMBER = '(\\d+(?:[.,]\\d{1,2})?)';
const PERCENT = `${NUMBER}[\\s\\u00a0\\u202f]?(?:%|percent|per cent|prozent|por cento|por ciento|pour cent|per cento|procent)`;
const MONEY = `(?:[€$£]\\s?${NUMBER}|${NUMBER}\\s?(?:[€$£]|EUR|USD|GBP|CHF|kr|zł|euros?)(?!\\p{L}))`;
/** A figure that is said to be taken off: before it or after it, with a word between at most. */
const takenOff = (figure: string) =>
  new RegExp(
    `(?<![\\d.,])${figure}(?:\\s\\p{L}+)?\\s(?:${LESS})(?!\\p{L})|(?<!\\p{L})(?:${SAVE})\\s(?:\\p{L}+\\s)?${figure}`,
    'giu',
  );
const PERCENT_OFF = takenOff(PERCENT);
const MONEY_OFF = takenOff(MONEY);
const BARE_PERCENT = new RegExp(`(?<![\\d.,])${PERCENT}`, 'giu');

const numberOf = (text: string) => Number(text.replace(',', '.'));
/** Sentences of a text, near enough: what belongs together is told from what only stands near. */
const sentencesOf = (text: string): string[] => text.replace(/\{\{[^{}\n]*\}\}/g, '…').split(/(?<=[.!?])\s+|\n+/);

interface Figure {
  shown: string;
  /** It says that so much is taken off, not only that there is such a figure. */
  promised: boolean;
}

/** Whether the currency that a figure names can be the discount's. A dollar sign stands for several. */
const signFits = (shown: string, discount: Discount): boolean => {
  if (discount.kind !== 'amount') return true;
  const { currency } = discount;
  if (shown.includes('€')) return currency === 'EUR';
  if (shown.includes('£')) return currency === 'GBP';
  return !shown.includes('$') || !['EUR', 'GBP'].includes(currency);
};

/** Figures of a sentence that are not the discount's. */
function otherFigures(sentence: string, discount: Discount): Figure[] {
  if (discount.kind === 'other') return [];
  const found = (figure: RegExp, kind: Discount['kind'], promised: boolean): Figure[] =>
    [...sentence.matchAll(figure)].flatMap(([shown, ...numbers]) => {
      const value = numberOf(numbers.find((n) => n !== undefined) ?? '');
      const same = 'value' in discount && discount.kind === kind && discount.value === value;
      return same && signFits(shown, discount) ? [] : [{ shown, promised }];
    });
  const taken = [...found(PERCENT_OFF, 'percent', true), ...found(MONEY_OFF, 'amount', true)];
  // "100% linen" is no promise, and a share in an email about an amount is most often none.
  const bare = discount.kind === 'percent' ? found(BARE_PERCENT, 'percent', false) : [];
  return [...taken, ...bare.filter((b) => !b.shown.startsWith('100') && !taken.some((t) => t.shown.includes(b.shown)))];
}

/** What is written as the offer's figure and is another than the shop takes. */
export const otherFigure = emailCheck('other-figure', 'error', ({ id, email }, context) => {
  const offer = offerOf(email, context);
  if (!offer) return [];
  const { discount } = offer.offer;
  return saidIn(email).flatMap((said): EmailFinding[] =>
    sentencesOf(said.text)
      .flatMap((s) => otherFigures(s, discount))
      .map(({ shown, promised }) => {
        const right = figureText(discount, 'en-GB');
        const [wrong = ''] = /\d[\d.,]{0,20}\s?%/.exec(shown) ?? [];
        const command = discount.kind === 'percent' && wrong ? rewrite({ step: id, email }, said, wrong, right) : null;
        return {
          level: promised ? 'error' : 'warning',
          block: said.block,
          part: said.place,
          message: `“${shown}” stands here, and “${offer.name}” gives ${discountText(discount, 'en-GB')}: that is what the shop takes off.`,
          fix: 'Put the field “what is given” here, which says what the shop takes, or change the offer.',
          ...(command ? { repair: { label: `Write “${right}”`, commands: [command] } } : {}),
        };
      }),
  );
});

const UNITS = [
  ['hour', HOUR],
  ['day', DAY],
  ['week', 7 * DAY],
] as const;
/** Lengths of time as each language writes them: its numbers in figures and words, its units in all their forms. */
const PERIODS = languages.map((language) => {
  const { spelled, units } = tableOf(language);
  const forms = UNITS.flatMap(([unit, size]) =>
    Object.values(units[unit]).map((form) => [form.replace('{0}', '').trim().toLowerCase(), size] as const),
  );
  const numbers = ['\\d{1,3}', ...Object.keys(spelled)].join('|');
  return {
    spelled,
    sizes: new Map(forms),
    find: new RegExp(`(?<![\\p{L}\\d])(${numbers})[\\s\\u00a0-](${forms.map(([f]) => f).join('|')})(?!\\p{L})`, 'giu'),
  };
});

interface Period {
  shown: string;
  length: number;
  unit: number;
}

/** Lengths of time that a sentence speaks of, ms, each once. */
function periodsIn(sentence: string): Period[] {
  const found = PERIODS.flatMap(({ find, spelled, sizes }) =>
    [...sentence.matchAll(find)].map(([shown, n = '', unit = '']): Period => {
      const size = sizes.get(unit.toLowerCase()) ?? 0;
      return { shown, length: (/^\d/.test(n) ? Number(n) : (spelled[n.toLowerCase()] ?? 0)) * size, unit: size };
    }),
  );
  return [...new Map(found.map((p) => [p.shown, p])).values()];
}

type After = Extract<Deadline, { kind: 'after' }>;

/** Whether a length of time is the offer's own, or what is left of it when an email of this span is read. */
function fits({ length, unit }: Period, deadline: After, span: Span | null): boolean {
  const own = roughLength(deadline.amount, deadline.unit);
  // Until an hour of the last day it is up to a day more or less.
  const slack = unit / 2 + (deadline.minute === null ? 0 : DAY);
  if (Math.abs(length - own) < slack) return true;
  const soonest = deadline.from === 'event' ? 0 : own;
  const left = span ? { most: own - span.from, least: own - span.to } : { most: own, least: soonest };
  return length <= left.most + slack && length >= left.least - slack;
}

/** A length of time that is said of the offer, and is another than its own and than what is left of it. */
export const otherPeriod = emailCheck('other-period', 'warning', (step, context, sequence) => {
  const offer = offerOf(step.email, context);
  if (!offer) return [];
  const { deadline } = offer.offer;
  if (deadline.kind !== 'never' && deadline.kind !== 'after') return [];
  const span = spanOf(step, offer.offer, sequence, reaches(sequence), context.now);
  const kinds = new Map(walkBlocks(step.email.blocks).map(({ block: b }) => [b.id, b.kind]));
  return saidIn(step.email).flatMap(({ block, place, text }): EmailFinding[] => {
    const beside = ['code', 'timer'].includes(kinds.get(block ?? '') ?? '');
    return sentencesOf(text)
      .filter((s) => beside || ABOUT.test(s))
      .flatMap(periodsIn)
      .filter((p) => deadline.kind === 'never' || !fits(p, deadline, span))
      .map(({ shown }) => ({
        block,
        part: place,
        message: `“${shown}” is said here, and “${offer.name}” ${deadline.kind === 'never' ? 'never closes' : `closes after ${periodWords(deadline.amount, deadline.unit)}`}.`,
        fix: 'Put the field “time left” or “deadline” here, or change the offer.',
      }));
  });
});
