import { modeOf } from '../email/index.ts';
import { emailSteps, ruledSplits, stepWords } from '../sequence/index.ts';
import { plainNames } from '../audience/index.ts';
import { at, type Check, type Finding } from './check.ts';

/** A test that decides itself by what nobody can see: it would be decided by nothing. */
export const decidedByNothing: Check = {
  id: 'decided-by-nothing',
  run: (sequence) =>
    ruledSplits(sequence).flatMap((step): Finding[] => {
      const finding = (message: string, fix: string): Finding => ({
        check: 'decided-by-nothing',
        level: 'error',
        place: at(step.id),
        message,
        fix,
      });
      const { measure } = step.rule;
      const name = `“${stepWords(step, plainNames)}”`;
      if (measure === 'goal')
        return sequence.goal
          ? []
          : [
              finding(
                `${name} is decided by who reached the goal, and there is no goal.`,
                'Add a goal, or decide it by something else.',
              ),
            ];
      if (measure === 'money') return [];
      const arms = step.arms.filter((a) => a.weight > 0).map((a) => emailSteps(a).filter((e) => e.on));
      if (arms.some((emails) => emails.length === 0))
        return [
          finding(
            `${name} is decided by who ${measure} an email of its arm, and an arm has none.`,
            'Decide it by money or by the goal, or put an email into each arm.',
          ),
        ];
      return measure === 'opened' && arms.some((emails) => emails.every((e) => modeOf(e.email) === 'text'))
        ? [
            finding(
              `${name} is decided by openings, and those of an arm that is text only cannot be seen.`,
              'Decide it by clicks or by money.',
            ),
          ]
        : [];
    }),
};
