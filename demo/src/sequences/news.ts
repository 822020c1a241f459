import { blankSequence, copyStep, plainCap, type EmailStep, type Sequence, type Trigger } from '@ascenso/core';
import { button, common, email, first, footer, id, image, letters, text } from '../letters.ts';
import type { DemoIds } from './ids.ts';

/** A day at nine, by each reader's own clock. */
const atNine = (day: string): Trigger => ({ kind: 'moment', when: 'day', day, minute: 9 * 60, zone: null });

/** Sent three weeks ago: two subjects on a third of the readers first, and the better one to the others. */
export function springPapers(ids: DemoIds): Sequence {
  const one = email(
    'The question',
    'Which paper folds best?',
    'Linen, cotton or abaca: three answers from the bench.',
    [
      image(ids.pictures.papers, 'Three stacks of paper in cream, sage and rose'),
      text(
        ['Hello ', first, ','],
        'Spring papers came in this week: linen for covers, cotton for pages, and a thin abaca that folds without a sound.',
        'We cut a sheet of each for the shop window, and folded them until one tore. You can guess which one did not.',
      ),
      button('See the spring papers', 'https://foldwell.example/papers'),
      footer(letters),
    ],
  );
  const copy = copyStep(one, id) as EmailStep;
  const other = {
    ...copy,
    name: 'The reminder',
    email: { ...copy.email, subject: 'Still in time for the spring papers' },
  };
  return {
    ...blankSequence('Spring papers', ids.letters),
    triggers: [atNine('2026-02-13')],
    cap: { ...plainCap, priority: 4 },
    steps: [
      {
        ...common(),
        kind: 'split',
        name: 'Two subjects',
        arms: [
          { id: id(), weight: 50, steps: [one] },
          { id: id(), weight: 50, steps: [other] },
        ],
        rule: { measure: 'opened', first: 33, after: { amount: 1, unit: 'days' } },
      },
    ],
  };
}

/** Still to go out: next Thursday. */
export function benchInMarch(ids: DemoIds): Sequence {
  return {
    ...blankSequence('The bench is open in March', ids.letters),
    triggers: [atNine('2026-03-12')],
    cap: { ...plainCap, priority: 4 },
    steps: [
      email('The bench is open', 'The bench is open on Saturdays in March', 'Bring a book that has come apart.', [
        text(
          ['Hello ', first, ','],
          'Every Saturday in March the long bench is yours from ten to four. Bring a book that has come apart, or a stack of sheets that wants to be one.',
        ),
        button('Choose a Saturday', 'https://foldwell.example/bench'),
        footer(letters),
      ]),
    ],
  };
}
