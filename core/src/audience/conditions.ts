import type { Asking } from './asking.ts';
import { kindOfAtom } from './atoms/index.ts';
import { atomsOf, isAtom, type Condition } from './condition-schema.ts';

/** Answers a condition for one person. Unknown fields count as missing; nothing throws. */
export function evaluate(condition: Condition, asking: Asking): boolean {
  // A rule of a segment was checked as a condition when it was kept.
  if (isAtom(condition))
    return kindOfAtom(condition).holds(condition, asking, (rule, at) => evaluate(rule as Condition, at));
  switch (condition.kind) {
    case 'all':
      return condition.of.every((c) => evaluate(c, asking));
    case 'any':
      return condition.of.some((c) => evaluate(c, asking));
    case 'not':
      return !evaluate(condition.of, asking);
  }
}

/**
 * Since when a condition that holds has held (epoch ms), or null where that is not known: of things that happened it is,
 * of what is known of a person it is not.
 */
export function heldSince(condition: Condition, asking: Asking): number | null {
  if (isAtom(condition)) return kindOfAtom(condition).since(condition, asking);
  switch (condition.kind) {
    case 'all': {
      const since = condition.of.map((c) => heldSince(c, asking));
      return since.length > 0 && since.every((s) => s !== null) ? Math.max(...since) : null;
    }
    case 'any': {
      const since = condition.of.filter((c) => evaluate(c, asking)).map((c) => heldSince(c, asking));
      return since.length > 0 && since.every((s) => s !== null) ? Math.min(...since) : null;
    }
    case 'not':
      return null;
  }
}

/** The next instant (epoch ms) at which the answer to a condition can change though nothing happens, or Infinity. */
export function nextTurn(condition: Condition, asking: Asking): number {
  const turns = (c: Condition): number[] =>
    atomsOf(c).flatMap((a) => kindOfAtom(a).turns(a, asking, (rule) => turns(rule as Condition)));
  return Math.min(...turns(condition).filter((t) => t > asking.now), Infinity);
}
