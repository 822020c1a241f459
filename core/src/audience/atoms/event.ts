import { z } from 'zod';
import type { Asking } from '../asking.ts';
import type { EventFact } from '../facts.ts';
import { withWords, fieldTestSchema, label, readPath, testField, textOf } from '../field-test.ts';
import type { Names } from '../names.ts';
import { describeSince, sinceInstant, sinceSchema, turnsOfPeriod } from '../since.ts';
import { plain, type AtomKind } from './kind.ts';
import { sampleSince, sampleTest } from './sample.ts';

/** The event that a download through one of our emails is kept as. */
export const FILE_EVENT = 'file.downloaded';

const schema = z.object({
  kind: z.literal('event'),
  event: z.string(),
  done: z.boolean(),
  /** How often it has to have happened; once where it is absent. */
  times: z.int().min(2).max(999).optional(),
  /** Field of the payload that has to be the same each time: one product looked at twice, not two of them once. */
  per: z.string().max(120).optional(),
  since: sinceSchema,
  where: z.array(fieldTestSchema).max(10),
});
type EventAtom = z.infer<typeof schema>;

/**
 * The event that makes an event atom true: the first that fits, or of several asked for the last of them. Undefined
 * where there are too few. Events after `now` have not happened yet.
 */
export function matchingEvent(atom: EventAtom, asking: Asking): EventFact | undefined {
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

function words(atom: EventAtom, names: Names): string {
  const since = describeSince(atom.since, names);
  const file = atom.event === FILE_EVENT ? atom.where.find((t) => t.field === 'file' && t.op === 'is') : undefined;
  if (file && atom.where.length === 1 && atom.times === undefined)
    return `${atom.done ? 'downloaded' : 'did not download'} “${names.file(String(file.value))}” ${since}`;
  const same = atom.per ? ` for the same ${label(atom.per)}` : '';
  const often = atom.times ? ` ${atom.times} times or more${same}` : '';
  const where = withWords(atom.where, names);
  return `${atom.done ? 'did' : 'did not do'} “${names.event(atom.event)}”${often}${where} ${since}`;
}

export const eventAtom: AtomKind<'event', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, asking) => (matchingEvent(atom, asking) !== undefined) === atom.done,
  since: (atom, asking) => (atom.done ? (matchingEvent(atom, asking)?.at ?? null) : null),
  words,
  // A step that came from elsewhere may count from an email that is not here.
  isOpen: ({ event, since }, { steps }) => event === '' || (since.kind === 'step' && !steps.has(since.step)),
  asks: ({ event, since }) => ({ events: [event], steps: since.kind === 'step' ? [since.step] : [] }),
  ofVisit: ({ since }) => since.kind === 'entry' || since.kind === 'step',
  // What happened within the period happened longer ago one day.
  turns: ({ event, since }, asking) =>
    since.kind === 'period'
      ? asking.facts.events.filter((e) => e.name === event).flatMap((e) => turnsOfPeriod(e.at + 1, since, asking))
      : [],
  speaksOf: ({ event }) => ({ events: [event] }),
  about: 'events',
  sample: (world, pick) => {
    const times = pick([undefined, undefined, 2, 3]);
    const per = world.payload.length > 0 ? pick([undefined, pick(world.payload)]) : undefined;
    const tests = world.payload.length > 0 ? pick([0, 0, 1, 2]) : 0;
    return {
      kind: 'event',
      event: pick(world.events),
      done: pick([true, false]),
      since: sampleSince(world, pick),
      where: Array.from({ length: tests }, () => sampleTest(world.payload, world, pick)),
      ...(times ? { times } : {}),
      ...(per ? { per } : {}),
    };
  },
};
