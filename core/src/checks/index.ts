import type { Sequence } from '../sequence/index.ts';
import type { Check, CheckContext, Finding } from './check.ts';
import { missingFallback, unknownField } from './fields.ts';
import { fillInWords } from './fill-in.ts';
import { noUnsubscribe } from './footer.ts';
import { missingAlt } from './images.ts';
import { deadLink } from './links.ts';
import { askedTooSoon, neverReached } from './plan.ts';
import { defaultSender } from './sender.ts';
import { noSubject } from './subject.ts';
import { startsInACircle, startsOf, unfinished } from './unfinished.ts';
import { tooHeavy } from './weight.ts';

/** All checks, in the order in which their findings are told. */
export const checks: readonly Check[] = [
  unfinished, startsInACircle, noSubject, fillInWords, unknownField, deadLink, noUnsubscribe, askedTooSoon, defaultSender, missingFallback, missingAlt, neverReached, tooHeavy,
]; // prettier-ignore

/** Every finding of every check: errors first. */
export function runChecks(sequence: Sequence, context: CheckContext): Finding[] {
  const all = checks.flatMap((c) => c.run(sequence, context));
  return [...all.filter((f) => f.level === 'error'), ...all.filter((f) => f.level === 'warning')];
}

export type { Check, CheckContext, Finding, FindingPlace } from './check.ts';
export { startsOf };
