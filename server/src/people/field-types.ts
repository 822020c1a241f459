/** Types of the fields of a kind of event, and of attributes. */
export type FieldType = 'text' | 'number' | 'date' | 'yes-no' | 'list';

/** The type that a value shows. Objects, and null, show none of their own: they are told as text. */
export const typeOf = (value: unknown): FieldType => {
  if (typeof value === 'number') return 'number';
  if (typeof value === 'boolean') return 'yes-no';
  if (Array.isArray(value)) return 'list';
  return typeof value === 'string' && /^\d{4}-\d{2}-\d{2}/.test(value) && !Number.isNaN(Date.parse(value))
    ? 'date'
    : 'text';
};

export const fits = (type: FieldType, value: unknown): boolean =>
  value === null ||
  (type === 'text'
    ? typeof value === 'string' || typeof value === 'number'
    : type === 'date'
      ? typeOf(value) === 'date'
      : typeOf(value) === type);
