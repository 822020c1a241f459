import { blankSequence, plainCap, type Sequence, type Step } from '@ascenso/core';
import { button, common, email, first, footer, id, letters, signature, text, waitAt } from '../letters.ts';
import type { DemoIds } from './ids.ts';

const LESSONS = [
  [
    'paper has a direction',
    'Tear a sheet in both directions: one tear runs straight, the other wanders. The straight one is the grain, and every fold of this course follows it.',
  ],
  [
    'folding a signature',
    'Four sheets, folded together, are one signature. Press the fold from the middle outwards with the bone folder, once, firmly.',
  ],
  [
    'the pamphlet stitch',
    'Three holes and one thread. It forgives everything: if it goes wrong, cut the thread and begin again. You have lost a minute.',
  ],
  [
    'five holes, long stitch',
    'Tonight the needle goes outside. The long stitch shows every hurry, so pull along the fold and never across it.',
  ],
  [
    'a cover that opens',
    'Board, paste, cloth, in that order, and a weight on top until tomorrow. The weight matters more than the paste.',
  ],
  [
    'putting it together',
    'Sew the signatures to the cover you pressed last night. The first one is the hardest; from the second on your hands know it.',
  ],
  [
    'the first book',
    'Trim the edge, or leave it. Write today’s date on the first page. That is all: you have made a book.',
  ],
] as const;

/** One lesson every evening at seven, Monday to Thursday; the next waits until the last was opened, two days at most. */
export function course(ids: DemoIds): Sequence {
  const steps: Step[] = [
    email(
      'It begins',
      'Seven evenings, and a book at the end',
      'A quarter of an hour each. A needle is all you need.',
      [
        text(
          ['Hello ', first, ','],
          'Seven evenings, one lesson each, at seven o’clock where you are. If an evening does not suit you, the lesson waits for you.',
        ),
        footer(letters),
      ],
      {},
      ids.tomasz,
    ),
  ];
  LESSONS.forEach(([title, words], i) => {
    steps.push(
      waitAt({ kind: 'weekday', days: [1, 2, 3, 4], minute: 19 * 60 }),
      email(
        `Lesson ${i + 1}`,
        `Evening ${i + 1}: ${title}`,
        'A quarter of an hour is enough.',
        [
          text(['Good evening ', first, ','], words),
          button(`Open lesson ${i + 1}`, `https://foldwell.example/course/${i + 1}`),
          signature('Until the next evening,'),
          footer(letters),
        ],
        {},
        ids.tomasz,
      ),
    );
    if (i < LESSONS.length - 1)
      steps.push({
        ...common(),
        kind: 'until',
        name: `Lesson ${i + 1} opened`,
        amount: 2,
        unit: 'days',
        condition: {
          kind: 'event',
          event: 'lesson.opened',
          done: true,
          since: { kind: 'entry' },
          where: [{ field: 'lesson', op: 'is', value: i + 1 }],
        },
        arms: [
          { id: id(), steps: [] },
          { id: id(), steps: [] },
        ],
      });
  });
  return {
    ...blankSequence('Seven evenings to a first book', ids.letters),
    about: 'A course by email: one evening after the other, as they are read.',
    triggers: [{ kind: 'event', event: 'form.sent', where: [{ field: 'form', op: 'is', value: 'course' }] }],
    cap: { ...plainCap, priority: 2 },
    steps: [...steps, { ...common(), kind: 'action', action: { type: 'add-tag', tag: 'course-finished' } }],
  };
}
