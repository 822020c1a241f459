import type { Facts } from './facts.ts';

/** What a condition is asked about: the facts, the moment of asking, and where the visit stands. */
export interface Asking {
  facts: Facts;
  /** Epoch ms. */
  now: number;
  enteredAt: number;
  /** Decided moments of the visit's steps, epoch ms by step id. */
  stepTimes: Readonly<Record<string, number>>;
}
