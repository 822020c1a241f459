import type { Discount, Offer } from './schema.ts';

/** What one person has of an offer. Set once: later emails, the timer and the shop all ask this. Times are epoch ms. */
export interface Given {
  openedAt: number;
  /** Null for one that never closes. */
  closesAt: number | null;
  /** Null for an offer without codes, or where none was left. */
  code: string | null;
  usedAt: number | null;
  /** What was promised when it was given; absent where that is what the offer gives now. */
  discount?: Discount;
}

/** What is known of an offer when something is decided about one person. */
export interface OfferFact {
  offer: Offer;
  given: Given | null;
  /** False where the offer gives everybody a code of their own and none is left. */
  stock: boolean;
}

export const offerStates = ['none', 'open', 'closed', 'used'] as const;
export type OfferState = (typeof offerStates)[number];

/** How an offer stands for a person at a moment. Used counts before closed; the deadline itself is closed already. */
export function offerState(given: Given | null | undefined, now: number): OfferState {
  if (!given || given.openedAt > now) return 'none';
  if (given.usedAt !== null && given.usedAt <= now) return 'used';
  return given.closesAt !== null && given.closesAt <= now ? 'closed' : 'open';
}

/**
 * The events that are kept of an offer: the email that shows it first is theirs, they opened one that does, they used it, it
 * closed unused.
 */
export const ISSUED_EVENT = 'offer.issued';
export const SEEN_EVENT = 'offer.seen';
export const USED_EVENT = 'offer.used';
export const EXPIRED_EVENT = 'offer.expired';
