import { KITS } from '../goods.ts';

/** A cart as the shop keeps it. Prices are major units of the shop's currency. */
export interface Cart {
  id: string;
  email: string;
  lines: { sku: string; quantity: number }[];
  code: { code: string; words: string; off: number } | null;
  order: { number: string; total: number } | null;
}

export const CURRENCY = 'EUR';
const priceOf = (sku: string) => KITS.find((g) => g.sku === sku)?.price ?? 0;
/** What a cart comes to before anything is taken off. */
export const totalOf = (cart: Pick<Cart, 'lines'>): number =>
  cart.lines.reduce((sum, l) => sum + priceOf(l.sku) * l.quantity, 0);
/** How many things lie in a cart. */
export const countOf = (cart: Pick<Cart, 'lines'>): number => cart.lines.reduce((sum, l) => sum + l.quantity, 0);
