import { z } from 'zod';
import { fieldTestSchema, periodSchema, readPath, testField, type Value } from '../audience/index.ts';
import {
  addDays,
  DAY,
  daysFromDate,
  isZone,
  nextWeekday,
  toWall,
  zoneNames,
  zoneOf,
  type Zone,
} from '../time/index.ts';

/** What starts a sequence for a person. A sequence can have several; each is enough. */
export const triggerSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('list'), list: z.string(), what: z.enum(['joined', 'left']) }),
  z.object({ kind: z.literal('tag'), tag: z.string().max(60), what: z.enum(['added', 'removed']) }),
  /** An attribute becomes what the test asks for: it did not hold before the change. */
  z.object({ kind: z.literal('attribute'), test: fieldTestSchema }),
  z.object({ kind: z.literal('event'), event: z.string(), where: z.array(fieldTestSchema).max(10) }),
  /** Days before (negative), on or after a date attribute, at a minute of the person's local day; every year or once. */
  z.object({
    kind: z.literal('date'),
    attribute: z.string().max(60),
    days: z.int().min(-366).max(366),
    minute: z.int().min(0).max(1439, 'A time of day lies between 0:00 and 23:59.'),
    yearly: z.boolean(),
  }),
  z.object({ kind: z.literal('segment'), segment: z.string() }),
  /** Opened or clicked an email of the workspace's sequences: any, or one that is chosen, or one link in it. */
  z.object({
    kind: z.literal('reading'),
    what: z.enum(['opened', 'clicked']),
    email: z
      .object({
        sequence: z.string(),
        step: z.string(),
        /** Its address as it is written in the email. */
        link: z.string().max(2000).optional(),
      })
      .optional(),
  }),
  /** Did not open, click, or do an event for so many days: found once in each such stretch. */
  z.object({
    kind: z.literal('quiet'),
    what: z.enum(['opened', 'clicked', 'event']),
    event: z.string(),
    days: z.int().min(1, 'A day or more.').max(999, '999 days at most.'),
  }),
  /** Did an event, and not another one within a time behind it: looked at a page, and ordered nothing. */
  z.object({
    kind: z.literal('unfollowed'),
    event: z.string(),
    where: z.array(fieldTestSchema).max(10),
    without: z.string(),
    within: periodSchema,
  }),
  /**
   * Everybody who may enter, once: when it is published, or on a day at a minute of it, in one zone or, where `zone` is null,
   * in each reader's own. `day` is YYYY-MM-DD, '' while none is chosen.
   */
  z.object({
    kind: z.literal('moment'),
    when: z.enum(['published', 'day']),
    day: z.string().regex(/^$|^\d{4}-\d{2}-\d{2}$/, 'A day is written as 2026-12-03.'),
    minute: z.int().min(0).max(1439, 'A time of day lies between 0:00 and 23:59.'),
    zone: z.string().refine(isZone, 'Use an IANA time zone such as Europe/Lisbon.').nullable(),
  }),
  /** Nothing starts it: people are added by hand. */
  z.object({ kind: z.literal('hand') }),
]);
export type Trigger = z.infer<typeof triggerSchema>;
export type TriggerOf<K extends Trigger['kind']> = Extract<Trigger, { kind: K }>;

/** Triggers that a sweep over the people looks for: no single event brings them. */
export type SweptTrigger = TriggerOf<'date' | 'segment' | 'quiet' | 'unfollowed' | 'moment'>;
export const isSwept = (t: Trigger): t is SweptTrigger =>
  t.kind === 'date' || t.kind === 'segment' || t.kind === 'quiet' || t.kind === 'unfollowed' || t.kind === 'moment';

/** A one-off send: everybody is taken in at one moment, and nobody after it. */
export const isOneOff = ({ triggers }: { triggers: readonly Trigger[] }): boolean =>
  triggers.every((t) => t.kind === 'moment');

/** Names of the events that a passage can begin with, and whose payload it keeps. */
export const startingEvents = (triggers: readonly Trigger[]): string[] => [
  ...new Set(triggers.flatMap((t) => ((t.kind === 'event' || t.kind === 'unfollowed') && t.event ? [t.event] : []))),
];

/** Something that happened to one person and can start sequences. */
export type Happening =
  | { kind: 'event'; event: string; payload: Record<string, unknown> }
  | { kind: 'list'; list: string; what: 'joined' | 'left' }
  | { kind: 'tag'; tag: string; what: 'added' | 'removed' }
  | { kind: 'attribute'; before: Readonly<Record<string, Value>>; after: Readonly<Record<string, Value>> }
  /** `link` is the address as it is written in the email, null where there was none. */
  | { kind: 'reading'; what: 'opened' | 'clicked'; sequence: string; step: string; link: string | null };

/** Whether something that happened is what a trigger waits for. */
export function startedBy(trigger: Trigger, it: Happening): boolean {
  switch (it.kind) {
    case 'event':
      return (
        trigger.kind === 'event' &&
        trigger.event === it.event &&
        trigger.where.every((t) => testField(t, readPath(it.payload, t.field)))
      );
    case 'list':
      return trigger.kind === 'list' && trigger.list === it.list && trigger.what === it.what;
    case 'tag':
      return trigger.kind === 'tag' && trigger.tag === it.tag && trigger.what === it.what;
    case 'attribute': {
      if (trigger.kind !== 'attribute') return false;
      const holds = (values: Readonly<Record<string, Value>>) =>
        testField(trigger.test, readPath(values, trigger.test.field));
      return holds(it.after) && !holds(it.before);
    }
    case 'reading':
      // A click counts as an opening.
      return (
        trigger.kind === 'reading' &&
        (trigger.what === it.what || it.what === 'clicked') &&
        (!trigger.email || (trigger.email.sequence === it.sequence && trigger.email.step === it.step)) &&
        (trigger.email?.link === undefined || trigger.email.link === it.link)
      );
  }
}

/**
 * The moments (epoch ms) in (after, until] at which a date trigger is due for somebody with this date, each with the
 * year it belongs to. 29 February falls on the 28th in common years. None where the text is no date.
 */
export function dateMoments(
  trigger: TriggerOf<'date'>,
  date: unknown,
  zone: Zone,
  after: number,
  until: number,
): { at: number; occasion: string }[] {
  if (typeof date !== 'string') return [];
  if (!trigger.yearly) {
    const at = daysFromDate(zone, date, trigger.days, trigger.minute);
    return at !== null && at > after && at <= until ? [{ at, occasion: date.slice(0, 10) }] : [];
  }
  const parts = /^\d{4}-(\d{2})-(\d{2})/.exec(date);
  if (!parts) return [];
  const yearOf = (t: number) => new Date(Math.floor(toWall(zone, t) / DAY) * DAY).getUTCFullYear();
  const out: { at: number; occasion: string }[] = [];
  // The days before or after may carry a moment into the neighbouring year.
  for (let year = yearOf(after) - 1; year <= yearOf(until) + 1; year++) {
    const leap = new Date(Date.UTC(year, 2, 0)).getUTCDate() === 29;
    const day = `${parts[1]}-${parts[2]}` === '02-29' && !leap ? '02-28' : `${parts[1]}-${parts[2]}`;
    const at = daysFromDate(zone, `${year}-${day}`, trigger.days, trigger.minute);
    if (at !== null && at > after && at <= until) out.push({ at, occasion: `${year}-${day}` });
  }
  return out;
}

/**
 * When a reader in a zone is taken in by a moment trigger (epoch ms). Null where it is on publishing, or where no day of
 * the calendar is named.
 */
export const momentFor = (trigger: TriggerOf<'moment'>, own: Zone): number | null =>
  trigger.when === 'published'
    ? null
    : daysFromDate(trigger.zone === null ? own : zoneOf(trigger.zone), trigger.day, 0, trigger.minute);

/** The first and the last of these moments, wherever on earth readers may be. */
export function momentRange(trigger: TriggerOf<'moment'>): { first: number; last: number } | null {
  const zones = trigger.zone === null ? zoneNames : [trigger.zone];
  const all = zones.flatMap((z) => momentFor(trigger, zoneOf(z)) ?? []);
  return all.length === 0 ? null : { first: Math.min(...all), last: Math.max(...all) };
}

/** The moment trigger of a send that reaches each reader at an hour of their own clock; undefined for any other. */
const ownHour = (triggers: readonly Trigger[]): TriggerOf<'moment'> | undefined =>
  triggers.find((t): t is TriggerOf<'moment'> => t.kind === 'moment' && t.when === 'day' && t.zone === null);

/**
 * From when the time of a test runs (epoch ms) whose first took part at `at`: of a send at each reader's own hour, from when that
 * hour has come everywhere. Else those of the zones that are ahead would decide for all.
 */
export function testRunsFrom({ triggers }: { triggers: readonly Trigger[] }, at: number): number {
  const own = ownHour(triggers);
  return Math.max(at, (own && momentRange(own)?.last) ?? at);
}

/** When somebody who waits for a test goes on, once it is decided: nobody gets a send at another hour than was said. */
export function goesOnAt({ triggers }: { triggers: readonly Trigger[] }, zone: Zone, decided: number): number {
  const own = ownHour(triggers);
  return own ? nextWeekday(zone, decided, [0, 1, 2, 3, 4, 5, 6], own.minute) : decided;
}

/** When somebody can begin a sequence that is published at `now`, the first and the last of those it takes in: at once, as a rule. */
export function beginning(
  { triggers }: { triggers: readonly Trigger[] },
  now: number,
): { first: number; last: number } {
  const ranges = triggers.map((t) => (t.kind === 'moment' ? momentRange(t) : null) ?? { first: now, last: now });
  return {
    first: Math.max(now, Math.min(...ranges.map((r) => r.first))),
    last: Math.max(now, ...ranges.map((r) => r.last)),
  };
}

/** When a stretch without doing something, begun at `since`, is as long as a quiet trigger asks: days keep the wall time. */
export const quietMoment = (trigger: TriggerOf<'quiet'>, since: number, zone: Zone): number =>
  addDays(zone, since, trigger.days);
