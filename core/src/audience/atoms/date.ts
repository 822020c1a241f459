import { z } from 'zod';
import { DAY, dayNumber, fromWall, periodWords, zoneOf, type Zone } from '../../time/index.ts';
import { DATE_TEXT, firstOf, label, readPath } from '../field-test.ts';
import { plain, type AtomKind } from './kind.ts';

/** A date of theirs against today, by the calendar of their zone. "anniversary": its day of the year comes round. */
const schema = z.object({
  kind: z.literal('date'),
  field: z.string().max(120),
  when: z.enum(['next', 'past', 'anniversary']),
  /** So many days from today, or back; today counts too. */
  days: z.int().min(0).max(3650),
  is: z.boolean(),
});
type DateAtom = z.infer<typeof schema>;

const dayText = (day: number) => new Date(day * DAY).toISOString().slice(0, 10);

/** Days, as text, between which a date has to lie; or the days of the year (as 03-06) of which it has to be one. */
export type DayWindow = { from: string; to: string } | { among: string[] };

/** The days that a question about a date is about, for who lives in a zone. 29 February comes round on the 28th in common years. */
export function dayWindow({ when, days }: Pick<DateAtom, 'when' | 'days'>, zone: Zone, now: number): DayWindow {
  const today = dayNumber(zone, now);
  if (when === 'next') return { from: dayText(today), to: dayText(today + days) };
  if (when === 'past') return { from: dayText(today - days), to: dayText(today) };
  const among = new Set<string>();
  for (let day = today; day <= today + Math.min(days, 366); day++) {
    const text = dayText(day).slice(5);
    among.add(text);
    if (text === '02-28' && dayText(day + 1).endsWith('-03-01')) among.add('02-29');
  }
  return { among: [...among].sort() };
}

function lies(atom: DateAtom, value: unknown, zone: Zone, now: number): boolean {
  if (typeof value !== 'string' || !new RegExp(DATE_TEXT).test(value)) return false;
  const window = dayWindow(atom, zone, now);
  const day = value.slice(0, 10);
  return 'among' in window ? window.among.includes(day.slice(5)) : window.from <= day && day <= window.to;
}

function words({ field, when, days, is }: DateAtom): string {
  const soon =
    days === 0
      ? 'today'
      : when === 'past'
        ? `in the past ${periodWords(days, 'days')}`
        : `in the next ${periodWords(days, 'days')}`;
  const verb = when === 'anniversary' ? (is ? 'comes round' : 'does not come round') : is ? 'is' : 'is not';
  return `has a ${label(field)} that ${verb} ${soon}`;
}

export const dateAtom: AtomKind<'date', typeof schema> = {
  ...plain,
  schema,
  holds: (atom, { facts: { person }, now }) =>
    lies(atom, readPath(person.attributes, atom.field), zoneOf(person.zone), now) === atom.is,
  words,
  isOpen: ({ field }) => field === '',
  // Their next midnight brings another day.
  turns: (_, { facts, now }) => {
    const zone = zoneOf(facts.person.zone);
    return [fromWall(zone, (dayNumber(zone, now) + 1) * DAY)];
  },
  speaksOf: ({ field }) => ({ attributes: [firstOf(field)] }),
  about: 'attributes',
  sample: ({ attributes }, pick) => ({
    kind: 'date',
    field: pick(attributes),
    when: pick(['next', 'past', 'anniversary']),
    days: pick([0, 1, 7, 30, 300, 3000]),
    is: pick([true, false]),
  }),
};
