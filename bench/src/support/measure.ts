/** One line of the report. `value` and `baseline` carry the same unit; `ratio` is value over baseline. */
export interface Line {
  name: string;
  value: number;
  unit: string;
  baseline: number;
  ratio: number;
}

const median = (numbers: number[]): number => {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)] ?? 0;
};

type Run = () => Promise<number> | number;
/** Does the work once and answers how many things it did; `before` is not measured. */
export type Side = Run | { before: () => Promise<void>; run: Run };

/**
 * Measures two sides in turn, so that a busy moment of the machine meets both, and prints the medians of their rates
 * (things per second) as one JSON line. The first round warms up and does not count.
 */
export async function inTurn(name: string, unit: string, subject: Side, baseline: Side, rounds = 5): Promise<Line> {
  const rates = { subject: [] as number[], baseline: [] as number[] };
  for (let round = 0; round <= rounds; round++)
    for (const [which, side] of [
      ['baseline', baseline],
      ['subject', subject],
    ] as const) {
      const run = typeof side === 'function' ? side : side.run;
      if (typeof side !== 'function') await side.before();
      const begun = performance.now();
      const done = await run();
      const rate = done / ((performance.now() - begun) / 1000);
      if (round > 0) rates[which].push(rate);
    }
  const value = median(rates.subject);
  const base = median(rates.baseline);
  const line = {
    name,
    value: Math.round(value),
    unit,
    baseline: Math.round(base),
    ratio: Number((value / base).toFixed(2)),
  };
  console.log(JSON.stringify(line));
  return line;
}

/** Measures how long two ways to one answer take, in turn: medians in ms, as one JSON line. The first round warms up. */
export async function slower(
  name: string,
  subject: () => Promise<unknown>,
  baseline: () => Promise<unknown>,
  rounds = 7,
): Promise<Line> {
  const took = { subject: [] as number[], baseline: [] as number[] };
  for (let round = 0; round <= rounds; round++)
    for (const [which, work] of [
      ['baseline', baseline],
      ['subject', subject],
    ] as const) {
      const begun = performance.now();
      await work();
      if (round > 0) took[which].push(performance.now() - begun);
    }
  const [value, base] = [median(took.subject), median(took.baseline)];
  const line = {
    name,
    value: Math.round(value),
    unit: 'ms',
    baseline: Math.round(base),
    ratio: Number((value / base).toFixed(2)),
  };
  console.log(JSON.stringify(line));
  return line;
}
