import { stringify } from 'csv-stringify/sync';
import { emailSteps, toMajor, type Sequence } from '@ascenso/core';
import type { NumbersAnswer, StepNumbers } from '@ascenso/contracts';
import { CSV } from './csv.ts';

const HEADS = [
  ...['sent', 'delivered', 'opened', 'clicked', 'unsubscribed', 'bounced', 'called_spam', 'given_up'],
  ...['orders', 'here_now', 'in_the_queue'],
] as const;

const figures = (n: StepNumbers): number[] => [
  ...[n.sent, n.delivered, n.opened, n.clicked, n.left, n.bounced, n.complained, n.failed],
  ...[n.orders, n.here, n.queued],
];

/**
 * The numbers of a sequence as CSV (RFC 4180, UTF-8 with its mark): a line for each email in the order of the plan. Money
 * stands in major units, a column for each currency.
 */
export function numbersCsv(sequence: Sequence, numbers: NumbersAnswer): string {
  const currencies = Object.keys(numbers.money).sort();
  const emails = [
    ...emailSteps(sequence).map(({ id, name }) => ({ id, name })),
    ...numbers.gone.map(({ step, name }) => ({ id: step, name })),
  ];
  const lines = emails.flatMap(({ id, name }) => {
    const n = numbers.steps[id];
    return n ? [[name, ...figures(n), ...currencies.map((c) => toMajor(n.money[c] ?? 0, c))]] : [];
  });
  return stringify([['email', ...HEADS, ...currencies.map((c) => `money_${c.toLowerCase()}`)], ...lines], CSV);
}
