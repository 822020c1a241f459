import { z } from 'zod';
import type { Ended } from '@ascenso/core';
import { emailAddress } from './requests.ts';

// Addresses that get no marketing, or no mail at all, and why.

export const endings = ['unsubscribed', 'bounced', 'complained'] as const satisfies readonly Ended[];

/** Addresses taken at once. */
export const SUPPRESSED_AT_ONCE = 1000;

export const suppressRequest = z.strictObject({
  addresses: z
    .array(
      z.strictObject({
        email: emailAddress,
        why: z.enum(endings),
      }),
    )
    .min(1, 'Name an address.')
    .max(SUPPRESSED_AT_ONCE),
});
export type Suppression = z.infer<typeof suppressRequest>['addresses'][number];

export interface SuppressedRow {
  /** Tells it from others: the person's id, or the hash of an address without a person. */
  id: string;
  /** Null where the person was erased: the address itself is not kept. */
  email: string | null;
  /** The person, where there is one. */
  person: string | null;
  why: Ended;
  /** Epoch ms. */
  at: number;
}

export interface SuppressedAnswer {
  rows: SuppressedRow[];
  /** How many fit, by why. */
  counts: Record<Ended, number>;
  /** Where the next page begins, or null at the end. */
  next: string | null;
}
