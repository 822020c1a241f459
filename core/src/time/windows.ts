import { z } from 'zod';
import { DAY, MINUTE } from './calendar.ts';
import { isZone, segmentAt, type Zone } from './zones.ts';

/**
 * When an email may go out: weekdays (0 Sunday to 6) and hours, as minutes of the local day in [from, to).
 * A window with `from` after `to` runs over midnight and belongs to the weekday on which it opens.
 */
export const windowSchema = z
  .object({
    days: z.array(z.int().min(0).max(6)).min(1, 'Choose at least one weekday.'),
    from: z.int().min(0).max(1439),
    to: z.int().min(1).max(1440),
    /** IANA zone that the hours are told in; the reader's own where it is absent. */
    zone: z.string().refine(isZone, 'Use an IANA time zone such as Europe/Lisbon.').optional(),
  })
  .refine((w) => w.from !== w.to, 'The window opens and closes at the same minute: leave some time in between.');

export type SendWindow = z.infer<typeof windowSchema>;

interface Opening {
  days: ReadonlySet<number>;
  from: number;
  to: number;
}

/** A window over midnight is two: until midnight, and on the next weekday from midnight on. */
function openings(window: SendWindow): Opening[] {
  const days = new Set(window.days);
  if (window.from < window.to) return [{ days, from: window.from * MINUTE, to: window.to * MINUTE }];
  const next = new Set(window.days.map((d) => (d + 1) % 7));
  return [
    { days, from: window.from * MINUTE, to: DAY },
    { days: next, from: 0, to: window.to * MINUTE },
  ];
}

/** First wall time >= wall in one of the openings; at most eight days are looked at. */
function nextOpenWall(list: readonly Opening[], wall: number): number {
  let best = Infinity;
  const firstDay = Math.floor(wall / DAY);
  for (let day = firstDay; day <= firstDay + 7 && day * DAY < best; day++) {
    const weekday = (((day + 4) % 7) + 7) % 7;
    for (const opening of list) {
      if (!opening.days.has(weekday)) continue;
      const from = Math.max(wall, day * DAY + opening.from);
      if (from < day * DAY + opening.to) best = Math.min(best, from);
    }
  }
  return best;
}

/**
 * The first instant >= `instant` (epoch ms) that lies in the window, asked segment by segment of constant offset,
 * so that gaps and repeated hours need no case of their own.
 */
export function nextInWindow(zone: Zone, window: SendWindow, instant: number): number {
  const list = openings(window);
  let from = instant;
  for (let segment = segmentAt(zone, from); ; segment++) {
    const offset = zone.offset[segment] ?? 0;
    const end = zone.at[segment] ?? Infinity;
    const found = nextOpenWall(list, from + offset) - offset;
    if (found < end) return found;
    from = end;
  }
}
