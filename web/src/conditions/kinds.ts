import type { Condition } from '@ascenso/core';
import { atomRows, headedChoices, rowOfAtom, type Place } from './rows/index.ts';
import type { Choice } from './rows/row.ts';

const rows = Object.values(atomRows);

/** What a row of a condition can say, in the order in which it is offered. */
export const rowKinds: readonly (Choice & { group?: string })[] = [
  ...headedChoices,
  { kind: 'group', label: 'fits a group of conditions' },
];

export const rowKindOf = (c: Condition): string =>
  c.kind === 'all' || c.kind === 'any' || c.kind === 'not' ? 'group' : rowOfAtom(c.kind).choiceOf(c);

/** A new row of a kind, with as much kept of the old one as still means something. */
export function blankRow(kind: string, old: Condition | null, place: Place): Condition {
  const row = rows.find((r) => r.choices.some((c) => c.kind === kind));
  if (row) return row.blank(kind, old, place);
  return { kind: 'any', of: old && old.kind !== 'all' && old.kind !== 'any' ? [old] : [] };
}

export interface Rows {
  mode: 'all' | 'any';
  rows: Condition[];
}

/** A condition as rows: a single one is a group of one. */
export function rowsOf(condition: Condition | null): Rows {
  if (!condition) return { mode: 'all', rows: [] };
  if (condition.kind === 'all' || condition.kind === 'any') return { mode: condition.kind, rows: condition.of };
  return { mode: 'all', rows: [condition] };
}

/** Rows as a condition; none is no condition. */
export function fromRows({ mode, rows }: Rows): Condition | null {
  if (rows.length === 0) return null;
  return rows.length === 1 ? (rows[0] as Condition) : { kind: mode, of: rows };
}
