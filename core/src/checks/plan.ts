import { askedByAtoms, atomsOf } from '../audience/index.ts';
import { reaches, stepWords, walk } from '../sequence/index.ts';
import { plainNames } from '../audience/index.ts';
import { MINUTE } from '../time/index.ts';
import { at, type Check, type Finding } from './check.ts';
import { surelyBefore } from './offers.ts';

/** A question about an email asked in the very minute it goes out: nobody has seen it yet (common practice, no published source). */
export const askedTooSoon: Check = {
  id: 'asked-too-soon',
  run: (sequence) => {
    const reach = reaches(sequence);
    return walk(sequence).flatMap(({ step }) => {
      if (!step.on) return [];
      const conditions =
        step.kind === 'branch' ? step.arms.map((a) => a.condition) : step.kind === 'email' ? [step.forWhom] : [];
      const asked = askedByAtoms(conditions.flatMap((c) => (c ? atomsOf(c) : [])));
      const here = reach.get(step.id);
      const tooSoon = asked.steps.find((id) => {
        const there = reach.get(id);
        return here && there && here.from - there.from < MINUTE;
      });
      return tooSoon
        ? [
            {
              check: 'asked-too-soon',
              level: 'error' as const,
              place: at(step.id),
              message:
                step.kind === 'email'
                  ? `Who gets “${stepWords(step, plainNames)}” is asked about an email in the same minute in which that goes out: nobody can have opened it yet.`
                  : 'This branch asks about an email in the same minute in which it goes out: nobody can have opened it yet.',
              fix: step.kind === 'email' ? 'Put a wait before this email.' : 'Put a wait before the branch.',
            },
          ]
        : [];
    });
  },
};

export const neverReached: Check = {
  id: 'never-reached',
  run: (sequence) => {
    const reach = reaches(sequence);
    return walk(sequence).flatMap(({ step, parent }) => {
      // An arm inside an unreachable branch is told once, at the branch.
      if (
        !step.on ||
        reach.get(step.id) !== null ||
        (parent && reach.get(parent.step.id) === null) ||
        (parent && !parent.step.on)
      )
        return [];
      return [
        {
          check: 'never-reached',
          level: 'warning' as const,
          place: at(step.id),
          message: `Nobody can reach “${stepWords(step, plainNames)}”: everyone has left before it.`,
          fix: 'Move it above the step that leaves, or take it out.',
        },
      ];
    });
  },
};

/** Two emails that reach the same person in one minute: the second is read as a mistake (common practice, no published source). */
export const sameMinute: Check = {
  id: 'same-minute',
  run: (sequence) => {
    const reach = reaches(sequence);
    const emails = walk(sequence).flatMap((v) =>
      v.step.kind === 'email' && v.step.on ? [{ ...v, step: v.step }] : [],
    );
    return emails.flatMap((v, i): Finding[] => {
      const here = reach.get(v.step.id);
      const before = emails.slice(0, i).find((u) => {
        const there = reach.get(u.step.id);
        // Who gets either may be told apart by a condition: then nobody has to get both. Different windows part them at night.
        return (
          here &&
          there &&
          !u.step.forWhom &&
          !v.step.forWhom &&
          JSON.stringify(u.step.window) === JSON.stringify(v.step.window) &&
          surelyBefore(u, v) &&
          here.from - there.from < MINUTE &&
          here.to - there.to < MINUTE
        );
      });
      return before
        ? [
            {
              check: 'same-minute',
              level: 'warning',
              place: at(v.step.id),
              message: `“${stepWords(v.step, plainNames)}” goes out in the same minute as “${stepWords(before.step, plainNames)}”, to the same people.`,
              fix: 'Put a wait between them.',
            },
          ]
        : [];
    });
  },
};
