import { DAY, dateWords, zoneOf } from '@ascenso/core';

/** Days of the workspace's calendar, days since 1970-01-01, both included. */
export interface Period {
  from: number;
  to: number;
}

/** "2026-03-06" of a day. */
export const dayText = (day: number): string => new Date(day * DAY).toISOString().slice(0, 10);
/** The day of "2026-03-06"; NaN for what is none. */
export const dayOf = (text: string): number => Date.parse(`${text}T00:00:00Z`) / DAY;

/** A period as a request carries it. */
export const inAddress = (period: Period | null): string =>
  period ? `?from=${dayText(period.from)}&to=${dayText(period.to)}` : '';

/** "6 March 2026". */
export const dayWords = (day: number): string => dateWords(zoneOf('UTC'), day * DAY, true);

/** Lengths that are offered, days. */
export const LAST_DAYS = [30, 90, 365];

/** The period that an address asks for (`joined=90`, or `from` and `to`); null for all of time. */
export function periodIn(params: URLSearchParams, today: number): Period | null {
  const last = Number(params.get('joined'));
  if (LAST_DAYS.includes(last)) return { from: today - last + 1, to: today };
  const [from, to] = [dayOf(params.get('from') ?? ''), dayOf(params.get('to') ?? '')];
  if (Number.isNaN(from) || Number.isNaN(to)) return null;
  return { from: Math.min(from, to), to: Math.max(from, to) };
}
