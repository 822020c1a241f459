import { offsetAt, segmentAt, type Zone } from './zones.ts';

/** Clocks that are put forward (ms above 0) or back at an instant (epoch ms). */
export interface ClockChange {
  at: number;
  by: number;
}

/** The first time after `from` and up to `to` (epoch ms) at which the clocks of a zone are put forward or back, or null. */
export function clockChange(zone: Zone, from: number, to: number): ClockChange | null {
  for (let i = segmentAt(zone, from); i < zone.at.length; i++) {
    const at = zone.at[i] as number;
    if (at > to) return null;
    const by = offsetAt(zone, at) - offsetAt(zone, at - 1);
    // Some changes of the law alter a name only.
    if (by !== 0) return { at, by };
  }
  return null;
}
