import type { Runnable, Visit } from './visit.ts';

/**
 * One visit after a pause that moves everybody on by as long as it was for them (`pausedAt`, `now`: epoch ms). What was
 * left of a wait is left. What the calendar decides is not moved but asked anew: whoever stands at an email or at a wait
 * for a day of the calendar is due at once, as if they had just got there.
 */
export function resumedByShift(visit: Visit, run: Runnable, pausedAt: number, now: number): Visit {
  const standing = visit.step === null ? undefined : run.steps.get(visit.step)?.step;
  if (standing?.kind === 'email') return { ...visit, dueAt: now, held: false };
  if (standing?.kind === 'wait' && standing.at) return { ...visit, arrivedAt: now, dueAt: now };
  const by = now - Math.max(visit.arrivedAt, pausedAt);
  return { ...visit, arrivedAt: visit.arrivedAt + by, dueAt: visit.dueAt + by };
}
