import { at, type Check } from './check.ts';
import { liveEmails } from './texts.ts';

/** Some inboxes cut a message short at about this size (common practice, no published source). */
export const HEAVY = 100_000;

export const tooHeavy: Check = {
  id: 'too-heavy',
  run: (sequence, { bytes }) =>
    liveEmails(sequence)
      .filter((s) => (bytes[s.id] ?? 0) > HEAVY)
      .map((s) => ({
        check: 'too-heavy', level: 'warning', place: at(s.id),
        message: `“${s.name}” weighs ${Math.round((bytes[s.id] ?? 0) / 1000)} kB: over about 100 kB, some inboxes cut a message short.`,
        fix: 'Split it in two, or shorten it.',
      })), // prettier-ignore
};
