import { askedByAtoms, atomsOf, plainNames, type Condition } from '../audience/index.ts';
import { reaches, stepWords, walk, type Step, type Visited } from '../sequence/index.ts';
import { MINUTE } from '../time/index.ts';
import { at, type Check, type Finding } from './check.ts';
import { surelyBefore } from './offers.ts';

/** The conditions that a step asks when somebody comes to it. */
const conditionsOf = (step: Step): Condition[] =>
  (step.kind === 'branch'
    ? step.arms.map((a) => a.condition)
    : step.kind === 'email'
      ? [step.forWhom]
      : step.kind === 'until'
        ? [step.condition]
        : []
  ).flatMap((c) => c ?? []);

/** The step of a fork's list in which somebody stands who has come to a step: from the outermost to itself. */
function wayTo(step: Visited): Visited[] {
  const way = [step];
  for (let at = step.parent; at; at = at.parent) way.unshift(at);
  return way;
}

/** Whether somebody can have come by one step before another: it stands earlier, and not in another arm of one fork. */
function canBeBefore(other: Visited, step: Visited): boolean {
  const [a, b] = [wayTo(other), wayTo(step)];
  for (let i = 0; i < Math.min(a.length, b.length); i++) {
    const [u, v] = [a[i] as Visited, b[i] as Visited];
    if (u.siblings !== v.siblings) return false;
    if (u.step.id !== v.step.id) return u.place.index < v.place.index;
  }
  return a.length <= b.length;
}

/** A question, or a wait, about an email that cannot have gone yet: moved behind it, in another arm, or switched off. */
export const askedBeforeSent: Check = {
  id: 'asked-before-sent',
  run: (sequence) => {
    const all = walk(sequence);
    return all.flatMap((here): Finding[] => {
      const { step } = here;
      if (!step.on) return [];
      const asked = askedByAtoms(conditionsOf(step).flatMap(atomsOf)).steps;
      const unsent = asked
        .flatMap((id) => all.find((v) => v.step.id === id) ?? [])
        .find((there) => !there.step.on || there.step.id === step.id || !canBeBefore(there, here));
      if (!unsent) return [];
      const email = `“${stepWords(unsent.step, plainNames)}”`;
      const why = !unsent.step.on
        ? 'which is switched off'
        : canBeBefore(here, unsent)
          ? 'which goes out only behind it'
          : 'which goes out on another way';
      const words = {
        until: `This waits for something about ${email}, ${why}: nobody can have done it.`,
        email: `Who gets “${stepWords(step, plainNames)}” is asked about ${email}, ${why}.`,
      };
      return [
        {
          check: 'asked-before-sent',
          level: 'error',
          place: at(step.id),
          message:
            words[step.kind as keyof typeof words] ??
            `This branch asks about ${email}, ${why}: everybody answers the same.`,
          fix: 'Ask about an email that has gone by then, or move that one before it.',
        },
      ];
    });
  },
};

/** A question about an email asked in the very minute it goes out: nobody has seen it yet (common practice, no published source). */
export const askedTooSoon: Check = {
  id: 'asked-too-soon',
  run: (sequence) => {
    const reach = reaches(sequence);
    const all = walk(sequence);
    return all.flatMap((visited) => {
      const { step } = visited;
      // Whoever waits for it has the time that the wait lasts.
      if (!step.on || step.kind === 'until') return [];
      const asked = askedByAtoms(conditionsOf(step).flatMap(atomsOf));
      const here = reach.get(step.id);
      const tooSoon = asked.steps.find((id) => {
        const there = reach.get(id);
        const other = all.find((v) => v.step.id === id);
        return other?.step.on && canBeBefore(other, visited) && here && there && here.from - there.from < MINUTE;
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
