import type { Request } from 'express';
import { invalid } from '../app/errors.ts';
import { base64Of, isEmpty, jsonOf, mediaType, textOf, wrongType } from './body.ts';

// The three content modes of the HTTP protocol binding for CloudEvents 1.0: structured and batched, where the body is the
// event, and binary, where headers carry its attributes and the body is its data.

const STRUCTURED = 'application/cloudevents+json';
const BATCHED = 'application/cloudevents-batch+json';
const PLAIN = 'application/json';

/** Events as they came, each as its JSON form, and whether they came as a batch. */
export interface Enclosed {
  events: unknown[];
  batch: boolean;
}

/**
 * A header's value is percent-encoded, and may stand in quotes (HTTP binding, 3.1.3.2). Clients that do not encode are
 * taken as they are.
 */
function headerValue(value: string): string {
  const quoted = /^"(.*)"$/.exec(value)?.[1]?.replace(/\\(.)/g, '$1') ?? value;
  try {
    return decodeURIComponent(quoted);
  } catch {
    return quoted;
  }
}

/** An event in binary mode. Its Content-Type is that of the data. */
function binary(req: Request): Record<string, unknown> {
  const event: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(req.headers))
    if (name.startsWith('ce-')) event[name.slice(3)] = headerValue(String(value));
  // The body is the data: a header of that name would take its place.
  delete event.data;
  delete event.data_base64;
  const type = mediaType(req);
  if (isEmpty(req)) return event;
  if (type === '' || /^application\/(json|[\w.+-]+\+json)$/.test(type)) event.data = jsonOf(req);
  else if (type.startsWith('text/')) event.data = textOf(req);
  else event.data_base64 = base64Of(req);
  return { ...event, datacontenttype: req.get('content-type') ?? PLAIN };
}

/** Reads what a request encloses, in whichever mode it comes. */
export function enclosed(req: Request): Enclosed {
  const type = mediaType(req);
  if (type === STRUCTURED) return { events: [jsonOf(req)], batch: false };
  if (type === BATCHED) {
    const events = jsonOf(req);
    if (!Array.isArray(events)) throw invalid('body', 'A batch is a JSON array of events.');
    return { events, batch: true };
  }
  if (type.startsWith('application/cloudevents')) throw wrongType([STRUCTURED, BATCHED]);
  if (req.get('ce-specversion') !== undefined) return { events: [binary(req)], batch: false };
  if (type !== PLAIN) throw wrongType([STRUCTURED, BATCHED]);
  const body = jsonOf(req);
  return Array.isArray(body) ? { events: body, batch: true } : { events: [body], batch: false };
}
