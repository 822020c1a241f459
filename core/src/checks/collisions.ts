import { emailSteps, reaches, type Sequence, type Trigger } from '../sequence/index.ts';
import { HOUR } from '../time/index.ts';
import { emailCheck } from './check.ts';

/** When the emails of a sequence can go out at the earliest, ms since its beginning. */
export function momentsOf(sequence: Pick<Sequence, 'steps'>): number[] {
  const reach = reaches(sequence);
  return emailSteps(sequence).flatMap((s) => {
    const at = s.on ? reach.get(s.id)?.from : undefined;
    return at === undefined ? [] : [at];
  });
}

const together = (a: readonly Trigger[], b: readonly Trigger[]) =>
  a.some((t) => t.kind !== 'hand' && b.some((u) => JSON.stringify(t) === JSON.stringify(u)));

/** Two live sequences that the same thing starts, and that mail whoever did it in the same hour. */
export const sameHour = emailCheck('same-hour', 'warning', ({ id }, { self, sequences }, sequence) => {
  const at = reaches(sequence).get(id)?.from;
  if (at === undefined) return [];
  const other = sequences.find(
    (s) =>
      s.id !== self &&
      s.live === true &&
      together(sequence.triggers, s.triggers ?? []) &&
      (s.moments ?? []).some((m) => Math.abs(m - at) < HOUR),
  );
  return other
    ? [
        {
          message: `“${other.name}” begins with the same thing and mails the same person in the same hour.`,
          fix: 'Move one of them by a day, or give one priority.',
        },
      ]
    : [];
});
