import { moneyText, numberText, tableOf } from '../words/index.ts';
import type { Discount, Offer } from './schema.ts';

// How a shop says it in the languages that an email can be written in. Common practice, no published source; from memory.
const OFF: Readonly<Record<string, string>> = {
  en: '{0} off',
  pt: '{0} de desconto',
  es: '{0} de descuento',
  fr: '{0} de remise',
  de: '{0} Rabatt',
  it: '{0} di sconto',
  nl: '{0} korting',
  pl: '{0} rabatu',
  sv: '{0} rabatt',
  da: '{0} rabat',
};
const DELIVERY: Readonly<Record<string, string>> = {
  en: 'free delivery',
  pt: 'portes grátis',
  es: 'envío gratis',
  fr: 'livraison offerte',
  de: 'kostenlose Lieferung',
  it: 'spedizione gratuita',
  nl: 'gratis verzending',
  pl: 'darmowa dostawa',
  sv: 'fri frakt',
  da: 'gratis levering',
};
const wordOf = (words: Readonly<Record<string, string>>, language: string): string =>
  words[language.toLowerCase().split(/[-_]/)[0] ?? ''] ?? words['en'] ?? '';

/** The figure of a discount as its reader's language writes it: "10%", "10 %", "€5", "5,50 €". '' for what has none. */
export function figureText(discount: Discount, language: string): string {
  if (discount.kind === 'percent')
    return tableOf(language).percent.replace('{0}', numberText(discount.value, language));
  if (discount.kind !== 'amount') return '';
  const { value, currency } = discount;
  const whole = Number.isInteger(value) ? 0 : undefined;
  return moneyText(value, { language, zone: 'UTC', currency }, whole);
}

/** What a discount is called in a language: "10% off", "5 € Rabatt", "livraison offerte", or its own words. */
export function discountText(discount: Discount, language: string): string {
  if (discount.kind === 'other') return discount.words;
  if (discount.kind === 'delivery') return wordOf(DELIVERY, language);
  return wordOf(OFF, language).replace('{0}', figureText(discount, language));
}

/** What is given, as its reader reads it: the figure in their language, with what is written around it. */
export const offerText = ({ discount, around }: Pick<Offer, 'discount' | 'around'>, language: string): string =>
  [around.before, discountText(discount, language), around.after].filter((part) => part !== '').join(' ');
