import { atomsOf } from '../audience/index.ts';
import { reaches, stepWords, walk } from '../sequence/index.ts';
import { plainNames } from '../audience/index.ts';
import { MINUTE } from '../time/index.ts';
import { at, type Check } from './check.ts';

/** A question about an email asked in the very minute it goes out: nobody has seen it yet (common practice, no published source). */
export const askedTooSoon: Check = {
  id: 'asked-too-soon',
  run: (sequence) => {
    const reach = reaches(sequence);
    return walk(sequence).flatMap(({ step }) => {
      if (step.kind !== 'branch' || !step.on) return [];
      const asked = step.arms
        .flatMap((a) => (a.condition ? atomsOf(a.condition) : []))
        .flatMap((atom) => {
          if (atom.kind === 'email') return [atom.step];
          return atom.kind === 'event' && atom.since.kind === 'step' ? [atom.since.step] : [];
        });
      const here = reach.get(step.id);
      const tooSoon = asked.find((id) => {
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
                'This branch asks about an email in the same minute in which it goes out: nobody can have opened it yet.',
              fix: 'Put a wait before the branch.',
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
