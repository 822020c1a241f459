import { emailCheck } from './check.ts';

/** Some inboxes cut a message short at about this size (common practice, no published source). */
export const HEAVY = 100_000;

export const tooHeavy = emailCheck('too-heavy', 'warning', ({ id, name }, { bytes }) =>
  (bytes[id] ?? 0) > HEAVY
    ? [
        {
          message: `“${name}” weighs ${Math.round((bytes[id] ?? 0) / 1000)} kB: over about 100 kB, some inboxes cut a message short.`,
          fix: 'Split it in two, or shorten it.',
        },
      ]
    : [],
);
