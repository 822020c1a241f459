import { dayWords } from '../numbers/periods.ts';

/** Days that one bar stands for. */
export interface Stretch {
  from: number;
  to: number;
  label: string;
}

/** Bars that can still be told apart. */
const BARS = 45;
const WEEK = 7;

/** Parts a period into days, or into weeks where there would be too many, the last of them whole. */
export function stretchesOf({ from, to }: { from: number; to: number }): Stretch[] {
  const days = to - from + 1;
  const length = days <= BARS ? 1 : WEEK * Math.ceil(days / WEEK / BARS);
  const out: Stretch[] = [];
  for (let end = to; end >= from; end -= length) {
    const start = Math.max(from, end - length + 1);
    out.unshift({
      from: start,
      to: end,
      label: start === end ? dayWords(end) : `${dayWords(start)} to ${dayWords(end)}`,
    });
  }
  return out;
}
