import { atomsOf } from '../audience/index.ts';
import { reaches, stepWords, walk, type Action } from '../sequence/index.ts';
import { plainNames } from '../audience/index.ts';
import { MINUTE } from '../time/index.ts';
import { at, type Check, type CheckContext } from './check.ts';

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

// A list or an attribute that is not there would stop the engine, or be set on nobody's page.
const isUnfinished = (action: Action, { lists, fields }: CheckContext) =>
  'tag' in action
    ? action.tag.trim() === ''
    : 'list' in action
      ? !lists.includes(action.list)
      : !fields.subscriber.includes(action.key);

/** What a branch or trigger needs to be a question at all. */
export const unfinished: Check = {
  id: 'unfinished',
  run: (sequence, context) => {
    const out = [];
    const { trigger } = sequence;
    if ((trigger.kind === 'list' && !trigger.list) || (trigger.kind === 'event' && !trigger.event))
      out.push({
        check: 'unfinished',
        level: 'error' as const,
        place: at(null, null, 'trigger'),
        message: 'Nothing starts this sequence.',
        fix: 'Choose a list or an event at the top of the plan.',
      });
    if (!walk(sequence).some(({ step }) => step.kind === 'email' && step.on))
      out.push({
        check: 'unfinished',
        level: 'error' as const,
        place: at(null),
        message: 'No email would go out.',
        fix: 'Add an email to the plan.',
      });
    for (const { step } of walk(sequence)) {
      if (!step.on) continue;
      if (step.kind === 'action' && isUnfinished(step.action, context))
        out.push({
          check: 'unfinished',
          level: 'error' as const,
          place: at(step.id),
          message: 'This action names no tag, or no list or attribute that there is.',
          fix: 'Name the tag, the list or the attribute.',
        });
      if (step.kind === 'wait' && step.at?.kind === 'date' && !step.at.field)
        out.push({
          check: 'unfinished',
          level: 'error' as const,
          place: at(step.id),
          message: 'This wait does not say yet which date it waits for.',
          fix: 'Choose a date of the person or of the event.',
        });
      const asked =
        step.kind === 'branch'
          ? step.arms.map((a) => a.condition)
          : step.kind === 'until'
            ? [step.condition]
            : step.kind === 'email'
              ? [step.forWhom ?? null]
              : [];
      const atoms = asked.flatMap((c) => (c ? atomsOf(c) : []));
      if (
        atoms.some(
          (a) =>
            (a.kind === 'event' && !a.event) ||
            (a.kind === 'email' && !a.step) ||
            (a.kind === 'tag' && !a.tag) ||
            (a.kind === 'list' && !a.list),
        )
      )
        out.push({
          check: 'unfinished',
          level: 'error' as const,
          place: at(step.id),
          message: `“${stepWords(step, plainNames)}” does not say yet what it asks.`,
          fix: 'Choose what they did.',
        });
    }
    return out;
  },
};
