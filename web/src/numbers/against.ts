/** "+12% on the 30 days before": against a period that is as long; of many times as much, what it was. */
export const against = (now: number, before: number, days: number, words: (n: number) => string): string =>
  before === 0 || now > before * 10
    ? `${before === 0 ? 'none' : words(before)} in the ${days} days before`
    : `${now >= before ? '+' : '−'}${Math.abs(Math.round(((now - before) / before) * 100))}% on the ${days} days before`;
