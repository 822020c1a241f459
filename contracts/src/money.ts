import { z } from 'zod';

const field = z
  .string()
  .trim()
  .max(60, 'A field has 60 characters at most.')
  .regex(/^[a-z0-9_.]*$/, 'A field is named as the event names it: small letters, digits, _ and dots.');

/** How a workspace's orders are told, and to which email each is counted. */
export const moneyRules = z.strictObject({
  /** Kind of event that is an order. */
  event: z.string().min(1, 'Choose the event that is an order.').max(100),
  /** Field of it that has the total, in major units. */
  amount: field.min(1, 'Say which field has the total.'),
  /** Field that has the currency (ISO 4217), or '': then it is the workspace's. */
  currency: field,
  /** Field that has the code used, or ''. */
  code: field,
  /** Field that tells one order from another, or '': the same one told again is one order. */
  number: field,
  /** Days within which the last click earns an order. */
  days: z.int('Whole days.').min(1, 'One day at least.').max(90, '90 days at most.'),
});
export type MoneyRules = z.infer<typeof moneyRules>;

/** As every workspace begins: five days after a click (common practice, no published source). */
export const MONEY_RULES: MoneyRules = {
  event: 'order.paid',
  amount: 'total',
  currency: 'currency',
  code: 'code',
  number: 'number',
  days: 5,
};
