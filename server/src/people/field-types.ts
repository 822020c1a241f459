import { z } from 'zod';

/** Types of the fields of a kind of event, and of attributes. */
export type FieldType = 'text' | 'number' | 'date' | 'yes-no' | 'list';

const written = z.union([z.iso.date(), z.iso.datetime({ offset: true, local: true })]);

/**
 * Whether a text is a day, or a day and time, of the calendar, as ISO 8601 writes it: nothing more behind it, no 30th of
 * February, and no year before 100, which is nearly always a slip for one of our own.
 */
export const isDate = (text: string): boolean => written.safeParse(text).success && !text.startsWith('00');

/** The type that a value shows. Objects, and null, show none of their own: they are told as text. */
export const typeOf = (value: unknown): FieldType => {
  if (typeof value === 'number') return 'number';
  if (typeof value === 'boolean') return 'yes-no';
  if (Array.isArray(value)) return 'list';
  return typeof value === 'string' && isDate(value) ? 'date' : 'text';
};

export const fits = (type: FieldType, value: unknown): boolean =>
  value === null ||
  (type === 'text'
    ? typeof value === 'string' || typeof value === 'number'
    : type === 'date'
      ? typeOf(value) === 'date'
      : typeOf(value) === type);
