import { z } from 'zod';
import type { Names } from './names.ts';

export const operators = [
  'is',
  'is not',
  'is one of',
  'is none of',
  'contains',
  'begins with',
  'over',
  'under',
  'before',
  'after',
  'is set',
  'is not set',
] as const;
export type Operator = (typeof operators)[number];

/** A test of one named value: an attribute of the person or a field of an event's payload. */
export const fieldTestSchema = z.object({
  field: z.string().min(1, 'Choose a field.').max(120),
  op: z.enum(operators),
  /** Several for “is one of” and “is none of”. */
  value: z.union([z.string(), z.number(), z.boolean(), z.array(z.string().max(200)).max(100)]).optional(),
});
export type FieldTest = z.infer<typeof fieldTestSchema>;

/** Reads a possibly nested field of a payload by its dotted path, own properties only. */
export function readPath(source: unknown, path: string): unknown {
  let value = source;
  for (const key of path.split('.')) {
    if (value === null || typeof value !== 'object' || !Object.hasOwn(value, key)) return undefined;
    value = (value as Record<string, unknown>)[key];
  }
  return value;
}

/** The name that a path begins with. */
export const firstOf = (path: string): string => path.split('.')[0] ?? '';

/** A number, or a text that is written as one; anything else is none. The SQL of a condition reads text by the same rule. */
export const NUMBER_TEXT = '^-?[0-9]{1,15}([.][0-9]{1,9})?$';
function numberOf(value: unknown): number {
  if (typeof value === 'number') return value;
  return typeof value === 'string' && new RegExp(NUMBER_TEXT).test(value) ? Number(value) : NaN;
}

/** Dates compare by their day, as ISO 8601 writes them: 2026-03-06, with or without a time behind. */
export const DATE_TEXT = '^[0-9]{4}-[0-9]{2}-[0-9]{2}';
function dayOf(value: unknown): string | null {
  return typeof value === 'string' && new RegExp(DATE_TEXT).test(value) ? value.slice(0, 10) : null;
}
function dayCompare(a: unknown, b: unknown): number {
  const [x, y] = [dayOf(a), dayOf(b)];
  return x === null || y === null ? NaN : x < y ? -1 : x > y ? 1 : 0;
}

/** The text of a value; '' for what has parts. */
export const textOf = (v: unknown) => (typeof v === 'object' && v !== null ? '' : String(v));
const isEmpty = (v: unknown) => v === undefined || v === null || v === '' || (Array.isArray(v) && v.length === 0);
/** The values that a test is about: several of “is one of”, else the one. */
export const valuesOf = ({ value }: FieldTest): (string | number | boolean | undefined)[] =>
  Array.isArray(value) ? value : [value];
const same = (a: unknown, b: unknown) => textOf(a).toLowerCase() === textOf(b).toLowerCase();

/**
 * Text compares without case; "over" and "under" only numbers, "before" and "after" only dates, by day. A list is or
 * contains what any of its items does. A missing value is never equal, over or under, before or after.
 */
export function testField(test: FieldTest, actual: unknown): boolean {
  switch (test.op) {
    case 'is set':
      return !isEmpty(actual);
    case 'is not set':
      return isEmpty(actual);
    case 'is':
      return (
        !isEmpty(actual) && (Array.isArray(actual) ? actual.some((v) => same(v, test.value)) : same(actual, test.value))
      );
    case 'is not':
      return !testField({ ...test, op: 'is' }, actual);
    case 'is one of':
      return valuesOf(test).some((value) => testField({ ...test, op: 'is', value }, actual));
    case 'is none of':
      return !testField({ ...test, op: 'is one of' }, actual);
    case 'contains':
    case 'begins with': {
      const part = textOf(test.value ?? '').toLowerCase();
      return (
        !isEmpty(actual) &&
        (Array.isArray(actual) ? actual : [actual]).some((v) => {
          const text = textOf(v).toLowerCase();
          return test.op === 'contains' ? text.includes(part) : text.startsWith(part);
        })
      );
    }
    case 'over':
      return numberOf(actual) > numberOf(test.value);
    case 'under':
      return numberOf(actual) < numberOf(test.value);
    case 'before':
      return dayCompare(actual, test.value) < 0;
    case 'after':
      return dayCompare(actual, test.value) > 0;
  }
}

/** The name of a field as it is read. */
export const label = (field: string) => field.replaceAll('_', ' ').replaceAll('.', ' ');

const inWords = (value: string | number | boolean | undefined): string =>
  value === undefined
    ? '…'
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : typeof value === 'string'
        ? `“${value}”`
        : String(value);

export function wanted(test: FieldTest): string {
  const all = valuesOf(test).map(inWords);
  return all.length > 1 ? `${all.slice(0, -1).join(', ')} or ${all.at(-1)}` : (all[0] ?? '…');
}

/** A test on a field of an event: "total over 25". */
export function describeTest(test: FieldTest): string {
  return test.op === 'is set' || test.op === 'is not set'
    ? `${label(test.field)} ${test.op}`
    : `${label(test.field)} ${test.op} ${wanted(test)}`;
}

/** The same behind "with": "with total over 25", "with form “course”". */
const describeWhere = (test: FieldTest, names: Names): string => {
  const named =
    test.field === 'form' && typeof test.value === 'string' ? { ...test, value: names.form(test.value) } : test;
  return named.op === 'is' ? `${label(named.field)} ${wanted(named)}` : describeTest(named);
};

/** What an event has to have, behind its name: " with total over 25 and form “course”"; '' where it is any. */
export const withWords = (tests: readonly FieldTest[], names: Names): string =>
  tests.length === 0 ? '' : ` with ${tests.map((t) => describeWhere(t, names)).join(' and ')}`;
