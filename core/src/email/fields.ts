import { z } from 'zod';
import { readPath } from '../audience/index.ts';
import type { Condition } from '../audience/index.ts';
import { zoneOf } from '../time/index.ts';
import { dateStyles, dateText, instantOf, moneyText, numberText, type DateStyle, type Locale } from '../words/index.ts';

/** Filters of a merge field: a closed list of our own. */
export const filterNames = ['capitalize', 'upcase', 'downcase'] as const;
export type FilterName = (typeof filterNames)[number];

/** How a value is written: a date in the reader's zone and language, money, a number. */
export const formatNames = [...dateStyles, 'money', 'number'] as const;
export type FormatName = (typeof formatNames)[number];
const isDateStyle = (f: FormatName): f is DateStyle => (dateStyles as readonly string[]).includes(f);

/** One merge field: where the value comes from, what stands in when it is missing, and how it is written. */
export const fieldSchema = z.object({
  path: z
    .string()
    .regex(/^[a-z_][a-z0-9_]*(\.[a-z0-9_]+)+$/i, 'Write a field as subscriber.first_name or event.total.'),
  fallback: z.string().max(200).nullable(),
  filters: z.array(z.enum(filterNames)).max(5),
  format: z.enum(formatNames).nullish(),
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
const formatSource = (f: FormatName) => (isDateStyle(f) ? `date: "${f}"` : f);

/** The written form of a field: `{{ subscriber.first_name | default: "reader" }}`. */
export function writeField(field: Field): string {
  const format = field.format ? ` | ${formatSource(field.format)}` : '';
  const filters = field.filters.map((f) => ` | ${f}`).join('');
  const fallback = field.fallback === null ? '' : ` | default: ${quote(field.fallback)}`;
  return `{{ ${field.path}${format}${filters}${fallback} }}`;
}

const FIELD = /^\s*([a-z_][a-z0-9_]*(?:\.[a-z0-9_]+)+)\s*((?:\|[^|]*)*)$/i;
const FILTER = /^\s*([a-z_]+)(?:\s*:\s*(?:"([^"]*)"|'([^']*)'))?\s*$/;

function readField(inside: string): Field | string {
  const match = FIELD.exec(inside);
  if (!match) return `“${inside.trim()}” is no merge field: write it as subscriber.first_name.`;
  const field: Field = { path: match[1] ?? '', fallback: null, filters: [] };
  for (const part of (match[2] ?? '').split('|').slice(1)) {
    const filter = FILTER.exec(part);
    const name = filter?.[1];
    const argument = filter?.[2] ?? filter?.[3] ?? '';
    if (name === 'default') field.fallback = argument;
    else if (name === 'money' || name === 'number') field.format = name;
    else if (name === 'date' && dateStyles.includes(argument as DateStyle)) field.format = argument as DateStyle;
    else if (name === 'date') return `“${part.trim()}” is no way to write a date: use ${dateStyles.join(', ')}.`;
    else if (filterNames.includes(name as FilterName)) field.filters.push(name as FilterName);
    else return `“${part.trim()}” is no filter: use default, date, money, number, ${filterNames.join(', ')}.`;
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

/** The beginning of a template: so many characters of its still text at most, and no field cut in two. */
export function beginningOf(source: string, length: number): string {
  let left = length;
  let out = '';
  for (const piece of readTemplate(source).pieces) {
    if (left <= 0) break;
    out += typeof piece === 'string' ? piece.slice(0, left) : writeField(piece);
    if (typeof piece === 'string') left -= piece.length;
  }
  return out;
}

/** What the moving parts of an email are filled from: the values, how they are written, and who sees what. */
export interface MergeContext {
  subscriber: Readonly<Record<string, unknown>>;
  event: Readonly<Record<string, unknown>>;
  sender: Readonly<Record<string, unknown>>;
  /** The sequence and the email by name: for campaign parameters. */
  sequence?: Readonly<Record<string, unknown>>;
  /** What the reader did lately, newest first: payloads by the name of the event. Only what a repeat asks for. */
  recent?: Readonly<Record<string, readonly unknown[]>>;
  /** The offer that the email makes, as far as this reader has it. */
  offer?: Readonly<Record<string, unknown>>;
  /** What each countdown of the email counts to, ISO 8601 or ''. */
  timers?: readonly string[];
  /** One item of the list that a repeat block goes through. */
  item?: Readonly<Record<string, unknown>>;
  locale?: Locale;
  /** Answers a condition for this reader. Without it, nobody fits any condition. */
  holds?: (condition: Condition) => boolean;
}

const apply: Record<FilterName, (s: string) => string> = {
  capitalize: (s) => s.charAt(0).toUpperCase() + s.slice(1),
  upcase: (s) => s.toUpperCase(),
  downcase: (s) => s.toLowerCase(),
};

export const plainLocale: Locale = { language: '', zone: 'UTC', currency: 'EUR' };

/** Money with its currency, or else in that of the list item or event it stands in. */
function formatted(value: unknown, format: FormatName, context: MergeContext): string | null {
  const locale = context.locale ?? plainLocale;
  if (isDateStyle(format)) {
    const instant = instantOf(value, zoneOf(locale.zone));
    return instant === null ? null : dateText(instant, format, locale);
  }
  const number = typeof value === 'number' ? value : typeof value === 'string' && value.trim() ? Number(value) : NaN;
  if (!Number.isFinite(number)) return null;
  if (format === 'number') return numberText(number, locale.language);
  const own = context.item?.currency ?? context.event.currency;
  return moneyText(number, typeof own === 'string' && /^[A-Z]{3}$/.test(own) ? { ...locale, currency: own } : locale);
}

const DAY_ALONE = /^\d{4}-\d{2}-\d{2}$/;

/**
 * A value in the reader's way where the author chose none: a day, a moment, a figure with its sign for decimals. What a
 * computer writes (2026-03-08T09:12:00.000Z, 18.5) is read by nobody. Whole numbers stay: an order's number is no amount.
 */
function naturally(value: unknown, locale: Locale): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value))
    return value.flatMap((v) => (typeof v === 'object' ? [] : [naturally(v, locale)])).join(', ');
  if (typeof value === 'object') return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number' && Number.isFinite(value) && !Number.isInteger(value))
    return numberText(value, locale.language);
  const instant = instantOf(value, zoneOf(locale.zone));
  if (instant === null) return String(value);
  return dateText(instant, DAY_ALONE.test(String(value)) ? 'day' : 'moment', locale);
}

/** A value as programs write it, for an address. */
function plainly(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (Array.isArray(value)) return value.filter((v) => typeof v !== 'object').join(', ');
  if (typeof value === 'object') return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return String(value);
}

function textOf(field: Field, context: MergeContext, unwritten: (value: unknown) => string): string {
  const value = readPath(context, field.path);
  const written = field.format ? formatted(value, field.format, context) : null;
  const text = (written ?? unwritten(value)).trim();
  return text === '' ? (field.fallback ?? '') : field.filters.reduce((t, f) => apply[f](t), text);
}

/**
 * The text of a field for one person, in their way of writing it: plain, unescaped. A missing or empty value is the fallback,
 * else nothing.
 */
export const fieldText = (field: Field, context: MergeContext): string =>
  textOf(field, context, (value) => naturally(value, context.locale ?? plainLocale));

/** The same inside an address, which a program reads: dates and figures stay as they came. */
export const fieldInAddress = (field: Field, context: MergeContext): string => textOf(field, context, plainly);
