import type { Sequence } from '../schema.ts';
import { Builder, type Ground, type Pattern } from './builder.ts';
import { afterPurchase, birthday, feedback, quietForLong, renewal } from './customers.ts';
import { bookedUntilItHappens, launch, sessionOnADate } from './dates.ts';
import { abandonedCheckout, leftInTheCart, lookedAndLeft } from './shopping.ts';
import { courseByEmail, firstWelcome, gettingToKnow, guideDelivery } from './welcome.ts';

/** All patterns, in the order in which they are offered. */
export const patterns: readonly Pattern[] = [
  firstWelcome,
  guideDelivery,
  gettingToKnow,
  courseByEmail,
  abandonedCheckout,
  leftInTheCart,
  lookedAndLeft,
  afterPurchase,
  feedback,
  sessionOnADate,
  bookedUntilItHappens,
  launch,
  renewal,
  birthday,
  quietForLong,
];

/** A sequence made from a pattern, for the workspace that it is made in. */
export const fromPattern = (pattern: Pattern, ground: Ground): Sequence => pattern.build(new Builder(ground));

export type { Ground, Pattern };
