import type { FieldTest } from '../audience/index.ts';
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

/** Whether two tests of one field cannot both hold; false where that cannot be told. */
function exclude(a: FieldTest, b: FieldTest): boolean {
  if (a.field !== b.field) return false;
  const pair = (x: FieldTest, y: FieldTest): boolean => {
    if (x.op === 'is' && y.op === 'is') return x.value !== y.value;
    if (x.op === 'is' && y.op === 'is not') return x.value === y.value;
    if (x.op === 'is set' && y.op === 'is not set') return true;
    if (x.op === 'is' && y.op === 'over') return Number(x.value) <= Number(y.value);
    if (x.op === 'is' && y.op === 'under') return Number(x.value) >= Number(y.value);
    return x.op === 'over' && y.op === 'under' && Number(x.value) >= Number(y.value);
  };
  return pair(a, b) || pair(b, a);
}

/** Whether one thing can start both: the same event counts where the filters on what it brings overlap. */
const startBoth = (t: Trigger, u: Trigger): boolean =>
  t.kind === 'event' && u.kind === 'event'
    ? t.event !== '' && t.event === u.event && !t.where.some((a) => u.where.some((b) => exclude(a, b)))
    : t.kind !== 'hand' && !(t.kind === 'moment' && t.when === 'published') && JSON.stringify(t) === JSON.stringify(u);

const together = (a: readonly Trigger[], b: readonly Trigger[]) => a.some((t) => b.some((u) => startBoth(t, u)));

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
          fix: 'Move one of them by a day, or set a daily cap: then priority decides which of them waits.',
        },
      ]
    : [];
});
