/** Counts of people at one email step, over all its sends. */
export interface StepCounts {
  /** Standing at the step now, held or queued. */
  here: number;
  sent: number;
  /** Accepted and not bounced since. */
  delivered: number;
  opened: number;
  clicked: number;
  /** Unsubscribed from this email. */
  left: number;
  bounced: number;
}

/** A share of people, with the denominator it was taken over; null when there is none. */
export function rate(part: number, of: number): number | null {
  return of > 0 ? part / of : null;
}

/** "47%", "6.1%": whole per cent from 10 up, one decimal below; "–" where nobody was counted. */
export function rateWords(part: number, of: number): string {
  const share = rate(part, of);
  if (share === null) return '–';
  const percent = share * 100;
  return `${percent >= 9.95 || percent === 0 ? Math.round(percent) : percent.toFixed(1)}%`;
}
