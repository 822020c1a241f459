import { wallOf } from './calendar.ts';
import type { Zone } from './zones.ts';

// English tables of our own: Intl answers differently in Node and in browsers.
export const WEEKDAYS = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'] as const;
export const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
] as const;

const two = (n: number) => String(n).padStart(2, '0');

/** "9 March" or, with the year, "9 March 2026". */
export function dateWords(zone: Zone, instant: number, withYear = false): string {
  const w = wallOf(zone, instant);
  return `${w.day} ${MONTHS[w.month - 1]}${withYear ? ` ${w.year}` : ''}`;
}

/** "Fri 6 Mar, 12:00". */
export function momentWords(zone: Zone, instant: number): string {
  const w = wallOf(zone, instant);
  return `${WEEKDAYS[w.weekday]?.slice(0, 3)} ${w.day} ${MONTHS[w.month - 1]?.slice(0, 3)}, ${two(w.hour)}:${two(w.minute)}`;
}

/** "8:00" for 480 minutes of the day. */
export function minuteWords(minute: number): string {
  return `${Math.floor(minute / 60)}:${two(minute % 60)}`;
}

/** Place name of a zone: "Lisbon" for Europe/Lisbon. */
export function placeWords(zoneName: string): string {
  return (zoneName.split('/').pop() ?? zoneName).replaceAll('_', ' ');
}

/** "Mon to Fri", "Mon, Wed", "any day". Days are 0 (Sunday) to 6. */
export function daysWords(days: readonly number[]): string {
  const monday = (d: number) => (d + 6) % 7;
  const sorted = [...new Set(days)].sort((a, b) => monday(a) - monday(b));
  if (sorted.length === 7) return 'any day';
  const name = (d: number) => WEEKDAYS[d]?.slice(0, 3) ?? '';
  const first = sorted[0];
  const last = sorted[sorted.length - 1];
  if (
    first !== undefined &&
    last !== undefined &&
    sorted.length > 2 &&
    monday(last) - monday(first) === sorted.length - 1
  )
    return `${name(first)} to ${name(last)}`;
  return sorted.map(name).join(', ');
}

/** "1 hour", "3 days". */
export function periodWords(amount: number, unit: string): string {
  return `${amount} ${amount === 1 ? unit.replace(/s$/, '') : unit}`;
}
