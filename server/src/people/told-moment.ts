import type { BusinessClock } from '../app/clock.ts';
import { UserError } from '../app/errors.ts';

const MINUTE = 60_000;
/** A sender's clock may be ahead by this much, ms. */
const AHEAD = 5 * MINUTE;

/**
 * The moment (epoch ms) that whoever tells us of something says it happened at: never later than we heard of it, since a
 * clock that runs ahead cannot have seen it before. On a practice clock the sender lives in real time: what has just happened
 * there happens now. Throws for a moment that lies ahead, naming the field: what has not happened yet changes nothing.
 */
export function momentTold(text: string, { now, practice }: BusinessClock, field: string): number {
  const at = Date.parse(text);
  if (practice && Math.abs(at - Date.now()) <= AHEAD) return now;
  if (at > now + AHEAD)
    throw new UserError(422, 'invalid', `${field}: it lies in the future. Check the clock of the sender.`, field);
  return Math.min(at, now);
}
