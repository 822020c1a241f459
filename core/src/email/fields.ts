import { z } from 'zod';

/** Filters of a merge field: a closed list of our own. */
export const filterNames = ['capitalize', 'upcase', 'downcase'] as const;
export type FilterName = (typeof filterNames)[number];

/** One merge field: where the value comes from, what stands in when it is missing, and how it is written. */
export const fieldSchema = z.object({
  path: z
    .string()
    .regex(/^[a-z_][a-z0-9_]*(\.[a-z0-9_]+)+$/i, 'Write a field as subscriber.first_name or event.total.'),
  fallback: z.string().max(200).nullable(),
  filters: z.array(z.enum(filterNames)).max(5),
});
export type Field = z.infer<typeof fieldSchema>;

/** A piece of a template: still text, or a merge field. */
export type TemplatePiece = string | Field;

export interface TemplateFault {
  message: string;
  /** Character offset in the source. */
  at: number;
}

const quote = (text: string) => (text.includes('"') ? `'${text.replaceAll("'", '’')}'` : `"${text}"`);

/** The written form of a field: `{{ subscriber.first_name | default: "reader" }}`. */
export function writeField(field: Field): string {
  const filters = field.filters.map((f) => ` | ${f}`).join('');
  const fallback = field.fallback === null ? '' : ` | default: ${quote(field.fallback)}`;
  return `{{ ${field.path}${filters}${fallback} }}`;
}

const FIELD = /^\s*([a-z_][a-z0-9_]*(?:\.[a-z0-9_]+)+)\s*((?:\|[^|]*)*)$/i;
const FILTER = /^\s*([a-z_]+)\s*(?::\s*(?:"([^"]*)"|'([^']*)'))?\s*$/;

function readField(inside: string): Field | string {
  const match = FIELD.exec(inside);
  if (!match) return `“${inside.trim()}” is no merge field: write it as subscriber.first_name.`;
  const field: Field = { path: match[1] ?? '', fallback: null, filters: [] };
  for (const part of (match[2] ?? '').split('|').slice(1)) {
    const filter = FILTER.exec(part);
    const name = filter?.[1];
    if (name === 'default') field.fallback = filter?.[2] ?? filter?.[3] ?? '';
    else if (filterNames.includes(name as FilterName)) field.filters.push(name as FilterName);
    else return `“${part.trim()}” is no filter: use default, ${filterNames.join(', ')}.`;
  }
  return field;
}

/**
 * Reads a template such as `Hello {{ subscriber.first_name | default: "reader" }}` into pieces. Faults (an unclosed
 * brace, something that is no field) are told with their place and stay in the text as they were written.
 */
export function readTemplate(source: string): { pieces: TemplatePiece[]; faults: TemplateFault[] } {
  const pieces: TemplatePiece[] = [];
  const faults: TemplateFault[] = [];
  const still = (text: string) => {
    if (text === '') return;
    const last = pieces[pieces.length - 1];
    if (typeof last === 'string') pieces[pieces.length - 1] = last + text;
    else pieces.push(text);
  };
  let at = 0;
  while (at < source.length) {
    const open = source.indexOf('{{', at);
    if (open < 0) break;
    still(source.slice(at, open));
    const close = source.indexOf('}}', open);
    if (close < 0) {
      faults.push({ message: 'A merge field is opened with {{ and never closed: add }}.', at: open });
      at = open;
      break;
    }
    const field = readField(source.slice(open + 2, close));
    if (typeof field === 'string') {
      faults.push({ message: field, at: open });
      still(source.slice(open, close + 2));
    } else pieces.push(field);
    at = close + 2;
  }
  still(source.slice(at));
  return { pieces, faults };
}

/** What a merge field can be filled from. */
export interface MergeContext {
  subscriber: Readonly<Record<string, unknown>>;
  event: Readonly<Record<string, unknown>>;
  sender: Readonly<Record<string, unknown>>;
}

const apply: Record<FilterName, (s: string) => string> = {
  capitalize: (s) => s.charAt(0).toUpperCase() + s.slice(1),
  upcase: (s) => s.toUpperCase(),
  downcase: (s) => s.toLowerCase(),
};

function toText(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) return value.filter((v) => typeof v !== 'object').join(', ');
  if (typeof value === 'object') return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

/** The text of a field for one person: plain, unescaped. A missing or empty value is the fallback, else nothing. */
export function fieldText(field: Field, context: MergeContext): string {
  let value: unknown = context;
  for (const key of field.path.split('.')) {
    value =
      value !== null && typeof value === 'object' && Object.hasOwn(value, key)
        ? (value as Record<string, unknown>)[key]
        : undefined;
  }
  const text = toText(value).trim();
  return text === '' ? (field.fallback ?? '') : field.filters.reduce((t, f) => apply[f](t), text);
}
