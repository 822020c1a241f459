import { moneyText, toMajor } from '@ascenso/core';

const words = (currency: string, minor: number): string => {
  const major = toMajor(minor, currency);
  const locale = { language: 'en-GB', zone: 'UTC', currency };
  // Cents say nothing beside thousands.
  return Math.abs(major) >= 1000 ? moneyText(Math.round(major), locale, 0) : moneyText(major, locale);
};

/** An amount of one currency in minor units: "€18.00", "€3,290". */
export const amountWords = (minor: number, currency: string): string => words(currency, minor);

/** Amounts in minor units by currency, each for itself: "€18.00 and ¥500"; "–" for none. */
export const moneyWords = (money: Readonly<Record<string, number>>): string =>
  Object.entries(money)
    .filter(([, minor]) => minor !== 0)
    .map(([currency, minor]) => words(currency, minor))
    .join(' and ') || '–';

/** Money for each of some people, in the same currencies. */
export const moneyPer = (money: Readonly<Record<string, number>>, people: number): string =>
  people === 0 ? '–' : moneyWords(Object.fromEntries(Object.entries(money).map(([c, minor]) => [c, minor / people])));

/** Two amounts together, each currency for itself. */
export const addMoney = (
  a: Readonly<Record<string, number>>,
  b: Readonly<Record<string, number>>,
): Record<string, number> => {
  const out = { ...a };
  for (const [currency, minor] of Object.entries(b)) out[currency] = (out[currency] ?? 0) + minor;
  return out;
};
