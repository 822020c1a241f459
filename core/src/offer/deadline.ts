import { addPeriod, daysFromDate, DAY, fromWall, MINUTE, toWall, zoneOf, type Zone } from '../time/index.ts';
import type { Deadline } from './schema.ts';

/** The moments that a deadline can count from, epoch ms, in the zone of the reader. */
export interface Opening {
  zone: Zone;
  /** The decided moment of the email that gives the offer. */
  email: number;
  entry: number;
  /** The last event of a kind that has happened, or null. */
  event: (name: string) => number | null;
  /** A date of the person as text, or undefined. */
  attribute: (key: string) => unknown;
}

/** An instant of a wall time that is written as 2026-03-31T18:00. A time that a gap swallows moves on by the gap. */
export const instantOfWall = (wall: string, zone: Zone): number => fromWall(zone, Date.parse(`${wall}Z`));

/**
 * When an offer closes for a person (epoch ms), Infinity where it never does, null where what it counts from is not
 * known. Days and weeks keep the wall time of the reader's zone; "until 18:00 on the second day" is two days on, at
 * that minute of the day.
 */
export function closesAt(deadline: Deadline, opening: Opening): number | null {
  switch (deadline.kind) {
    case 'never':
      return Infinity;
    case 'fixed':
      return instantOfWall(deadline.wall, zoneOf(deadline.zone));
    case 'after': {
      const { from, amount, unit, minute } = deadline;
      const start = from === 'event' ? opening.event(deadline.event) : opening[from];
      if (start === null) return null;
      if (minute === null || unit === 'hours') return addPeriod(opening.zone, start, amount, unit);
      const day = Math.floor(toWall(opening.zone, start) / DAY) + amount * (unit === 'weeks' ? 7 : 1);
      return fromWall(opening.zone, day * DAY + minute * MINUTE);
    }
    case 'attribute': {
      const value = opening.attribute(deadline.field);
      return typeof value === 'string' ? daysFromDate(opening.zone, value, deadline.days, deadline.minute) : null;
    }
  }
}
