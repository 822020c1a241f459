import { DAY } from '@ascenso/core';
import { UserError } from '../app/errors.ts';
import type { Days } from '../db/tallies.ts';

/** A date of a query ("2026-03-06") as days since 1970-01-01. Throws for what is none, naming the field. */
function dayIn(field: string, text: string): number {
  const at = /^\d{4}-\d\d-\d\d$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN;
  // 2026-02-30 is read as 2 March by some and refused by others.
  if (Number.isNaN(at) || !new Date(at).toISOString().startsWith(text))
    throw new UserError(422, 'invalid', `${field}: write a date as 2026-03-06.`, field);
  return at / DAY;
}

/** The days that a query asks about, both included; null for all of them. Throws where they end before they begin. */
export function daysAsked({ from, to }: Record<string, string>): Days | null {
  if (!from && !to) return null;
  const days = { from: from ? dayIn('from', from) : 0, to: to ? dayIn('to', to) : 1_000_000 };
  if (days.to < days.from)
    throw new UserError(422, 'invalid', 'to: the period ends before it begins. Choose a later day.', 'to');
  return days;
}
