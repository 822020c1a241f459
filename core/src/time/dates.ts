import { addDays, DAY, MINUTE, wallOf } from './calendar.ts';
import { dateWords, WEEKDAYS } from './words.ts';
import { fromWall, toWall, zoneOf, type Zone } from './zones.ts';

const atMinute = (day: number, minute: number) => day * DAY + minute * MINUTE;
const dayOf = (zone: Zone, instant: number) => Math.floor(toWall(zone, instant) / DAY);
/** Weekday (0 is Sunday) of a day number: 1 January 1970 was a Thursday. */
const weekdayOf = (day: number) => (((day + 4) % 7) + 7) % 7;

/** The first instant after `from` (epoch ms) that falls on one of the weekdays (0 is Sunday) at a minute of the local day. */
export function nextWeekday(zone: Zone, from: number, days: readonly number[], minute: number): number {
  const today = dayOf(zone, from);
  // Eight days hold every weekday after `from`, also where today's hour has passed.
  for (let day = today; day <= today + 8; day++) {
    if (!days.includes(weekdayOf(day))) continue;
    const at = fromWall(zone, atMinute(day, minute));
    if (at > from) return at;
  }
  throw new Error('No weekday was given to wait for.');
}

const dayInYear = (year: number, month: number, day: number) => {
  // 29 February falls on the 28th in common years.
  const last = new Date(Date.UTC(year, month, 0)).getUTCDate();
  return Math.floor(Date.UTC(year, month - 1, Math.min(day, last)) / DAY);
};

/** The first instant after `from` that falls on a day of the year (month 1 to 12) at a minute of the local day. */
export function nextDayOfYear(zone: Zone, from: number, month: number, day: number, minute: number): number {
  const { year } = wallOf(zone, from);
  for (const y of [year, year + 1]) {
    const at = fromWall(zone, atMinute(dayInYear(y, month, day), minute));
    if (at > from) return at;
  }
  return fromWall(zone, atMinute(dayInYear(year + 2, month, day), minute));
}

/** ISO 8601: a day, or a day with a time and its offset. */
const ISO = /^(\d{4})-(\d{2})-(\d{2})(?:T\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(Z|[+-]\d{2}:?\d{2}))?$/;

/**
 * So many days before (negative) or after a date, at a minute of the local day; with `minute` null at the date's own time,
 * which a day without a time begins with. Null when the text is no date.
 */
export function daysFromDate(zone: Zone, date: string, days: number, minute: number | null): number | null {
  const parts = ISO.exec(date.trim());
  if (!parts) return null;
  const [, year, month, day, offset] = parts;
  const plain = Math.floor(Date.UTC(Number(year), Number(month) - 1, Number(day)) / DAY);
  // Month 13 or 30 February would roll over into another day.
  const back = new Date(plain * DAY);
  if (back.getUTCMonth() + 1 !== Number(month) || back.getUTCDate() !== Number(day)) return null;
  if (offset === undefined) return fromWall(zone, atMinute(plain + days, minute ?? 0));
  const own = Date.parse(date.trim());
  if (Number.isNaN(own)) return null;
  return minute === null ? addDays(zone, own, days) : fromWall(zone, atMinute(dayOf(zone, own) + days, minute));
}

/** "Thursday 3 December 2026" for 2026-12-03; null when the text is no day of the calendar. */
export function dayOfCalendarWords(day: string): string | null {
  const utc = zoneOf('UTC');
  const at = /^\d{4}-\d{2}-\d{2}$/.test(day) ? daysFromDate(utc, day, 0, 0) : null;
  return at === null ? null : `${WEEKDAYS[weekdayOf(at / DAY)]} ${dateWords(utc, at, true)}`;
}
