import { offerState } from '../offer/index.ts';
import { addPeriod, zoneOf } from '../time/index.ts';
import type { Atom, Condition, FieldTest, Since } from './condition-schema.ts';
import type { EventFact, Facts } from './facts.ts';

/** What a condition is asked about: the facts, the moment of asking, and where the visit stands. */
export interface Asking {
  facts: Facts;
  /** Epoch ms. */
  now: number;
  enteredAt: number;
  /** Decided moments of the visit's steps, epoch ms by step id. */
  stepTimes: Readonly<Record<string, number>>;
}

/** Reads a possibly nested field of a payload by its dotted path, own properties only. */
export function readPath(source: unknown, path: string): unknown {
  let value = source;
  for (const key of path.split('.')) {
    if (value === null || typeof value !== 'object' || !Object.hasOwn(value, key)) return undefined;
    value = (value as Record<string, unknown>)[key];
  }
  return value;
}

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

const textOf = (v: unknown) => (typeof v === 'object' && v !== null ? '' : String(v));
const isEmpty = (v: unknown) => v === undefined || v === null || v === '' || (Array.isArray(v) && v.length === 0);
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
    case 'contains':
      return (
        !isEmpty(actual) &&
        (Array.isArray(actual) ? actual : [actual]).some((v) =>
          textOf(v)
            .toLowerCase()
            .includes(textOf(test.value ?? '').toLowerCase()),
        )
      );
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

/** Instant (epoch ms) from which an event counts, or -Infinity for ever. A step not yet passed counts from entry. */
export function sinceInstant(since: Since, asking: Asking): number {
  switch (since.kind) {
    case 'ever':
      return -Infinity;
    case 'entry':
      return asking.enteredAt;
    case 'step':
      return asking.stepTimes[since.step] ?? asking.enteredAt;
    case 'period':
      return addPeriod(zoneOf(asking.facts.person.zone), asking.now, -since.amount, since.unit);
  }
}

/**
 * The event that makes an event atom true: the first that fits, or of several asked for the last of them. Undefined
 * where there are too few. Events after `now` have not happened yet.
 */
export function matchingEvent(atom: Extract<Atom, { kind: 'event' }>, asking: Asking): EventFact | undefined {
  const from = sinceInstant(atom.since, asking);
  const fitting = asking.facts.events.filter(
    (e) =>
      e.name === atom.event &&
      e.at >= from &&
      e.at <= asking.now &&
      atom.where.every((t) => testField(t, readPath(e.payload, t.field))),
  );
  const times = atom.times ?? 1;
  if (atom.per === undefined) return fitting[times - 1];
  const counts = new Map<string, number>();
  return fitting.find((e) => {
    const value = textOf(readPath(e.payload, atom.per ?? ''));
    if (value === '' || value === 'undefined' || value === 'null') return false;
    counts.set(value, (counts.get(value) ?? 0) + 1);
    return counts.get(value) === times;
  });
}

/** "Closing within" counts days and weeks by the calendar of the person. */
function isOfferState({ offer, state, within }: Extract<Atom, { kind: 'offer' }>, asking: Asking): boolean {
  const { given } = asking.facts.offers?.[offer] ?? { given: null };
  const now = offerState(given, asking.now);
  if (state !== 'closing') return now === state;
  const limit = addPeriod(zoneOf(asking.facts.person.zone), asking.now, within.amount, within.unit);
  return now === 'open' && given?.closesAt != null && given.closesAt <= limit;
}

/** Answers a condition for one person. Unknown fields count as missing; nothing throws. */
export function evaluate(condition: Condition, asking: Asking): boolean {
  const { person } = asking.facts;
  switch (condition.kind) {
    case 'all':
      return condition.of.every((c) => evaluate(c, asking));
    case 'any':
      return condition.of.some((c) => evaluate(c, asking));
    case 'not':
      return !evaluate(condition.of, asking);
    case 'attribute':
      return testField(condition.test, readPath(person.attributes, condition.test.field));
    case 'tag':
      return person.tags.includes(condition.tag) === condition.has;
    case 'list':
      return (person.lists[condition.list] === 'confirmed') === condition.on;
    case 'event':
      return (matchingEvent(condition, asking) !== undefined) === condition.done;
    case 'offer':
      return isOfferState(condition, asking) === condition.is;
    case 'points':
      return condition.op === 'over' ? person.points > condition.value : person.points < condition.value;
    case 'segment': {
      const rule = asking.facts.segments?.[condition.segment];
      return (rule !== undefined && evaluate(rule, asking)) === condition.in;
    }
    case 'email':
      return (readAt(condition, asking) !== null) === condition.did;
  }
}

/** When an email was opened or clicked as an atom asks, epoch ms, or null. */
function readAt(atom: Extract<Atom, { kind: 'email' }>, { facts, now }: Asking): number | null {
  const email = facts.emails[atom.step];
  const clicked = atom.link === undefined ? email?.clickedAt : email?.links?.[atom.link];
  const at = atom.what === 'clicked' ? clicked : (email?.openedAt ?? email?.clickedAt);
  return at != null && at <= now ? at : null;
}

/**
 * Since when a condition that holds has held (epoch ms), or null where that is not known: of things that happened it is,
 * of what is known of a person it is not.
 */
export function heldSince(condition: Condition, asking: Asking): number | null {
  switch (condition.kind) {
    case 'event':
      return condition.done ? (matchingEvent(condition, asking)?.at ?? null) : null;
    case 'email':
      return condition.did ? readAt(condition, asking) : null;
    case 'all': {
      const since = condition.of.map((c) => heldSince(c, asking));
      return since.length > 0 && since.every((s) => s !== null) ? Math.max(...since) : null;
    }
    case 'any': {
      const since = condition.of.filter((c) => evaluate(c, asking)).map((c) => heldSince(c, asking));
      return since.length > 0 && since.every((s) => s !== null) ? Math.min(...since) : null;
    }
    default:
      return null;
  }
}
