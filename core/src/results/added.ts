import { meanDifference, type Range } from './ranges.ts';

/** People who were let in, or held out by chance, with what they ordered. Money in minor units. */
export interface Group {
  people: number;
  orders: number;
  money: number;
  /** Sum of the squares of what each of them spent. */
  squares: number;
}

/** What a sequence added for each person, minor units; null where there is too little to say. */
export interface Added {
  perPerson: (Range & { mean: number }) | null;
  /** Why nothing can be said. */
  why: 'nobody-held-out' | 'few-people' | 'few-orders' | null;
}

/** People and orders that each group needs before a range by the normal distribution means anything (common practice, no published source). */
const PEOPLE = 30;
const ORDERS = 5;

/** What a sequence really added: what each person who went through it spent, less what each who was held out did. */
export function added(through: Group, out: Group): Added {
  if (out.people === 0) return { perPerson: null, why: 'nobody-held-out' };
  if (Math.min(through.people, out.people) < PEOPLE) return { perPerson: null, why: 'few-people' };
  if (through.orders + out.orders < ORDERS || Math.max(through.orders, out.orders) < ORDERS)
    return { perPerson: null, why: 'few-orders' };
  const sample = (g: Group) => ({ n: g.people, sum: g.money, squares: g.squares });
  return { perPerson: meanDifference(sample(through), sample(out)), why: null };
}
