import { fieldsWithPlaces } from '../email/index.ts';
import { emailCheck } from './check.ts';

/** What shops call an amount of money (common practice, no published source). */
const AMOUNT = /(?:^|[._])(?:total|subtotal|price|amount|sum|cost|shipping|discount|balance|fee)$/i;

/** A field that holds money by its name, and is written as a bare number: "18" and no currency. */
export const moneyUnwritten = emailCheck('money-unwritten', 'warning', ({ email }) =>
  fieldsWithPlaces(email).flatMap(({ field, block, place, address }) =>
    address || field.format || !/^(?:event|item)\./.test(field.path) || !AMOUNT.test(field.path)
      ? []
      : [
          {
            block,
            part: place,
            message: `“${field.path}” is money by its name, and is written as a number without its currency.`,
            fix: 'Click the chip and have it written as money.',
          },
        ],
  ),
);
