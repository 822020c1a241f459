/** What one email step counts. Each email counts once, however often it is opened or clicked. */
export interface StepCounts {
  /** Standing at the step now: on their way through it, or with the email in the queue. */
  here: number;
  /** Of them, those whose email waits for its window, or for codes of its offer. */
  held: number;
  awaits: number;
  /** Of them, those whose email has been decided and is being handed over. */
  queued: number;
  /** Handed over and taken by the receiving server, or refused there because the mailbox is none. */
  sent: number;
  /** Of them, those that were not bounced since. */
  delivered: number;
  opened: number;
  clicked: number;
  /** Unsubscribed from this email. */
  left: number;
  bounced: number;
  complained: number;
  /** Given up: refused for another reason, or never answered. */
  failed: number;
}

/** A share of people, with the denominator it was taken over; null when there is none. */
export function rate(part: number, of: number): number | null {
  return of > 0 ? part / of : null;
}

/**
 * "47%", "6.1%": whole per cent, with one decimal below 10 and from 99 up, so that none is not said of some, nor all of
 * nearly all; "–" where nobody was counted.
 */
export function rateWords(part: number, of: number): string {
  const share = rate(part, of);
  if (share === null) return '–';
  const percent = share * 100;
  if (percent > 0 && percent < 0.1) return '<0.1%';
  if (percent > 99 && percent < 100) return `${(Math.floor(percent * 10) / 10).toFixed(1)}%`;
  return `${percent >= 9.95 || percent === 0 ? Math.round(percent) : percent.toFixed(1)}%`;
}
