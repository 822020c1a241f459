import type { Visit } from '@ascenso/core';

/** A visit under way, as the table keeps it. */
export interface VisitRow {
  id: string;
  sequence_id: string;
  version: number;
  person_id: string;
  step: string | null;
  entered_at: number;
  arrived_at: number;
  due_at: number;
  held: boolean;
  too_late: boolean;
  step_times: Record<string, number>;
  entry: Record<string, unknown>;
  awaits?: string | null;
}

export const toVisit = (r: VisitRow): Visit => ({
  id: r.id,
  sequence: r.sequence_id,
  version: r.version,
  step: r.step,
  status: 'active',
  enteredAt: r.entered_at,
  arrivedAt: r.arrived_at,
  dueAt: r.due_at,
  held: r.held,
  tooLate: r.too_late,
  stepTimes: r.step_times,
  entry: r.entry,
  ...(r.awaits ? { awaits: r.awaits } : {}),
});
