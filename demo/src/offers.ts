import { blankOffer, type Offer } from '@ascenso/core';

/** How many codes the workshop had printed for "Come and look". */
export const LOOK_CODES = 45;

const after = (amount: number, unit: 'hours' | 'days', minute: number | null = null): Offer['deadline'] => ({
  kind: 'after',
  from: 'email',
  event: '',
  amount,
  unit,
  minute,
});
const made = (prefix: string): Offer['codes'] => ({
  kind: 'made',
  pattern: { prefix, alphabet: 'letters and figures', length: 7, group: 4, check: true },
});

export const kitOffer: Offer = {
  ...blankOffer(),
  name: 'Kit offer',
  discount: { kind: 'percent', value: 10 },
  around: { before: '', after: 'one order' },
  codes: made('KIT-'),
  deadline: after(48, 'hours'),
  after: { kind: 'message', text: 'The kit offer has closed.' },
};

export const cartOffer: Offer = {
  ...blankOffer(),
  name: 'Finish the cart',
  discount: { kind: 'amount', value: 5, currency: 'EUR' },
  around: { before: '', after: 'this order' },
  codes: made('CART-'),
  deadline: after(2, 'days', 18 * 60),
  after: { kind: 'zeros' },
};

export const lookOffer: Offer = {
  ...blankOffer(),
  name: 'Come and look',
  discount: { kind: 'percent', value: 8 },
  around: { before: '', after: 'what you looked at' },
  codes: { kind: 'imported' },
  empty: { kind: 'without' },
  deadline: after(5, 'days', 1439),
  after: { kind: 'gone' },
};
