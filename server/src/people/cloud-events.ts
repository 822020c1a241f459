import type { CloudEvent } from '@ascenso/contracts';
import { invalid } from '../app/errors.ts';

// What a CloudEvent carries, as an event is kept here: an object with fields.

const JSON_TYPE = /^application\/(json|[\w.+-]+\+json)\b/i;

/** Attributes that CloudEvents 1.0 names itself: everything else at their side is an extension. */
const NAMED = new Set([
  'specversion',
  'id',
  'source',
  'type',
  'subject',
  'time',
  'datacontenttype',
  'dataschema',
  'data',
  'data_base64',
]);

/** The extension attributes of an event; undefined where it has none. */
export function extensionsOf(event: CloudEvent): Record<string, unknown> | undefined {
  const own = Object.entries(event).filter(([name]) => !NAMED.has(name));
  return own.length === 0 ? undefined : Object.fromEntries(own);
}

/** Bytes as what they are declared to be: JSON, text, or themselves. */
function read(base64: string, type: string): unknown {
  const bytes = Buffer.from(base64, 'base64');
  if (!JSON_TYPE.test(type)) return /^text\//i.test(type) ? bytes.toString('utf8') : { base64 };
  try {
    return JSON.parse(bytes.toString('utf8')) as unknown;
  } catch {
    throw invalid('data_base64', `data_base64: it is declared as ${type}, and is no JSON.`);
  }
}

/** The payload of an event. What is no object stands in a field called "value". */
export function payloadIn(event: CloudEvent): Record<string, unknown> {
  const { data_base64: base64, datacontenttype } = event;
  const data: unknown = base64 === undefined ? event.data : read(base64, datacontenttype ?? 'application/json');
  if (data === undefined || data === null) return {};
  return typeof data === 'object' && !Array.isArray(data) ? (data as Record<string, unknown>) : { value: data };
}
