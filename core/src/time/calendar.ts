import { fromWall, toWall, type Zone } from './zones.ts';

export const MINUTE = 60_000;
export const HOUR = 3_600_000;
export const DAY = 86_400_000;

export type Unit = 'minutes' | 'hours' | 'days' | 'weeks';

/** Calendar parts of a wall time. `month` is 1 to 12, `weekday` 0 (Sunday) to 6. */
export interface Wall {
  year: number;
  month: number;
  day: number;
  weekday: number;
  hour: number;
  minute: number;
}

/** Parts of an instant (epoch ms) as a clock on the wall in that zone shows them. */
export function wallOf(zone: Zone, instant: number): Wall {
  const d = new Date(toWall(zone, instant));
  return {
    year: d.getUTCFullYear(),
    month: d.getUTCMonth() + 1,
    day: d.getUTCDate(),
    weekday: d.getUTCDay(),
    hour: d.getUTCHours(),
    minute: d.getUTCMinutes(),
  };
}

/** Local calendar day as a number of days since 1970-01-01. */
export function dayNumber(zone: Zone, instant: number): number {
  return Math.floor(toWall(zone, instant) / DAY);
}

/** Adds whole days and keeps the wall time. No days is the very same instant, even in a repeated hour. */
export function addDays(zone: Zone, instant: number, days: number): number {
  return days === 0 ? instant : fromWall(zone, toWall(zone, instant) + days * DAY);
}

/** Adds a period: minutes and hours are exact, days and weeks keep the wall time in the zone. */
export function addPeriod(zone: Zone, instant: number, amount: number, unit: Unit): number {
  switch (unit) {
    case 'minutes':
      return instant + amount * MINUTE;
    case 'hours':
      return instant + amount * HOUR;
    case 'days':
      return addDays(zone, instant, amount);
    case 'weeks':
      return addDays(zone, instant, amount * 7);
  }
}

/** Length of a period in ms as if every day had 24 hours: for drawing and for comparing, never for scheduling. */
export function roughLength(amount: number, unit: Unit): number {
  const length = { minutes: MINUTE, hours: HOUR, days: DAY, weeks: 7 * DAY };
  return amount * length[unit];
}
