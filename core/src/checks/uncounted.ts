import { atomsOf, plainNames, type Condition } from '../audience/index.ts';
import { unseenOf } from '../email/index.ts';
import { findStep, stepWords, walk, type Sequence } from '../sequence/index.ts';
import { at, type Check, type Finding } from './check.ts';

/** Every condition of a sequence with the step that asks it, null for goal and exit. */
function conditionsOf(sequence: Sequence): { step: string | null; condition: Condition }[] {
  const some = (step: string | null, ...conditions: (Condition | null | undefined)[]) =>
    conditions.flatMap((condition) => (condition ? [{ step, condition }] : []));
  return [
    ...some(null, sequence.goal, sequence.exit),
    ...walk(sequence).flatMap(({ step }) => {
      if (!step.on) return [];
      if (step.kind === 'branch') return some(step.id, ...step.arms.map((a) => a.condition));
      if (step.kind === 'until') return some(step.id, step.condition);
      return step.kind === 'email' ? some(step.id, step.forWhom) : [];
    }),
  ];
}

/** A question about openings or clicks of an email of which they cannot be seen: it would be answered "no" for everybody. */
export const askedUnseen: Check = {
  id: 'asked-unseen',
  run: (sequence) =>
    conditionsOf(sequence).flatMap(({ step, condition }) =>
      atomsOf(condition).flatMap((atom): Finding[] => {
        if (atom.kind !== 'email') return [];
        const about = findStep(sequence, atom.step)?.step;
        if (about?.kind !== 'email') return [];
        const unseen = unseenOf(about.email);
        const name = stepWords(about, plainNames);
        if (atom.what === 'clicked' ? !unseen.clicks : !unseen.openings) return [];
        // A click counts as an opening.
        const some = atom.what !== 'clicked' && !unseen.clicks;
        return [
          {
            check: 'asked-unseen',
            level: some ? 'warning' : 'error',
            place: at(step),
            message: some
              ? `It is asked whether “${name}” was opened, and only those who click in it are seen to have opened it.`
              : `It is asked whether “${name}” was ${atom.what}, and that is not counted: nobody will ever be seen to have.`,
            fix: some
              ? 'Ask for a click instead.'
              : 'Have it counted, in the email behind “Designed” at its top, or ask for something else.',
          },
        ];
      }),
    ),
};
