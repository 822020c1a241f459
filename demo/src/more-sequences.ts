import {
  blankSequence,
  blockKinds,
  plainCap,
  plainEntry,
  type Block,
  type Condition,
  type Sequence,
  type Step,
} from '@ascenso/core';
import {
  button,
  code,
  common,
  divider,
  email,
  first,
  footer,
  id,
  letters,
  making,
  signature,
  text,
  timer,
  wait,
  waitAt,
  weekdays,
} from './letters.ts';
import type { DemoIds } from './sequences.ts';

/** What they looked at lately, whatever it was that started this. */
const looked = (): Block => ({
  ...blockKinds.repeat.blank(id),
  list: 'recent.product.viewed',
  limit: 3,
  title: { on: true, field: 'product' },
  quantity: { on: false, field: '' },
  link: 'page',
  button: { on: true, label: 'Look again' },
});

const did = (event: string): Condition => ({ kind: 'event', event, done: true, since: { kind: 'entry' }, where: [] });

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
    triggers: [{ kind: 'event', event: 'form.sent', where: [{ field: 'form', op: 'is', value: 'course' }] }],
    cap: { ...plainCap, priority: 2 },
    steps: [...steps, { ...common(), kind: 'action', action: { type: 'add-tag', tag: 'course-finished' } }],
  };
}

export function renewal(ids: DemoIds): Sequence {
  return {
    ...blankSequence('Paper club renewal', ids.letters),
    triggers: [{ kind: 'date', attribute: 'renews_on', days: -21, minute: 9 * 60, yearly: false }],
    entry: { ...plainEntry, again: 'after-leaving' },
    goal: did('club.renewed'),
    steps: [
      email(
        'In three weeks',
        'Your year in the paper club ends in three weeks',
        'Twelve papers so far. What comes next.',
        [
          text(
            ['Hello ', first, ','],
            'In three weeks your year in the paper club comes to its end. Twelve papers went through your hands; the next twelve are chosen, and two of them we have never seen on sale anywhere.',
          ),
          button('See the coming year', 'https://foldwell.example/club'),
          footer(letters),
        ],
      ),
      wait(2, 'weeks'),
      email('In a week', 'One week left, then your place goes on', 'Two minutes are enough.', [
        text(
          ['Hello ', first, ','],
          'A week from now your place is offered to the next on the list. If you want to keep it, two minutes are enough.',
        ),
        button('Keep my place', 'https://foldwell.example/club/renew'),
        footer(letters),
      ]),
    ],
  };
}

export function birthday(ids: DemoIds): Sequence {
  return {
    ...blankSequence('Birthday sheet', ids.letters),
    triggers: [{ kind: 'date', attribute: 'birthday', days: 0, minute: 9 * 60, yearly: true }],
    entry: { ...plainEntry, again: 'after-leaving' },
    steps: [
      email(
        'Birthday sheet',
        'A sheet for your birthday, {{ subscriber.first_name | default: "reader" }}',
        'Print it, fold it, keep it.',
        [
          text(
            ['Happy birthday, ', first, '.'],
            'One sheet, made to be folded into the smallest book we know. Print it, fold it, keep it.',
          ),
          button('Get the sheet', 'https://foldwell.example/birthday-sheet'),
          footer(letters),
        ],
      ),
    ],
  };
}

export function comeBack(ids: DemoIds): Sequence {
  const goodbye = email(
    'Goodbye',
    'Shall we stop writing to you?',
    'One click, and all stays as it is.',
    [
      text(
        ['Hello ', first, ','],
        'You have not opened our letters for a long while, and that is quite all right. If you would like to stay, click the button. If not, do nothing: this is the last one.',
      ),
      button('Keep the letters coming', 'https://foldwell.example/stay'),
      footer(letters),
    ],
    { window: weekdays },
  );
  return {
    ...blankSequence('Come back to the bench', ids.letters),
    triggers: [{ kind: 'quiet', what: 'opened', event: '', days: 90 }],
    entry: { ...plainEntry, again: 'after-days', days: 180 },
    cap: { ...plainCap, priority: 5 },
    steps: [
      email(
        'What you missed',
        'Three letters you may have missed',
        'The ones that were read most.',
        [
          text(
            ['Hello ', first, ','],
            'It has been a while. These are the three letters that were read most since you last looked in.',
          ),
          button('The one that was read most', 'https://foldwell.example/letters/most-read'),
          divider(),
          footer(letters),
        ],
        { window: weekdays },
      ),
      wait(10, 'days'),
      goodbye,
      {
        ...common(),
        kind: 'until',
        name: 'Wants to stay',
        amount: 7,
        unit: 'days',
        condition: { kind: 'email', step: goodbye.id, what: 'clicked', did: true },
        arms: [
          { id: id(), steps: [{ ...common(), kind: 'action', action: { type: 'add-tag', tag: 'came-back' } }] },
          { id: id(), steps: [{ ...common(), kind: 'action', action: { type: 'leave-list', list: ids.letters } }] },
        ],
      },
    ],
  };
}

/** Service mail: no list, no cap, one story for each repair. */
export function bookIsReady(): Sequence {
  return {
    ...blankSequence('Your book is ready', null),
    triggers: [{ kind: 'event', event: 'repair.finished', where: [] }],
    entry: { ...plainEntry, again: 'after-leaving', key: 'number' },
    steps: [
      email(
        'Ready',
        '{{ event.title | default: "Your book" }} is ready',
        'Repair {{ event.number }}, at the bench until you come.',
        [
          text(
            ['Hello ', first, ','],
            [
              '“',
              { path: 'event.title', fallback: 'Your book', filters: [] },
              '” is ready. ',
              { path: 'event.binder', fallback: 'We', filters: [] },
              ' did this: ',
              { path: 'event.done', fallback: 'what was needed', filters: [] },
              '.',
            ],
            'It lies at the bench until you come, or we send it.',
          ),
          button('Pick it up', '{{ event.pick_up }}'),
          footer('You brought us a book to repair.'),
        ],
      ),
    ],
  };
}

export function lookedTwice(ids: DemoIds): Sequence {
  return {
    ...blankSequence('Looked twice, no order', ids.letters),
    triggers: [{ kind: 'event', event: 'product.viewed', where: [] }],
    filter: {
      kind: 'event',
      event: 'product.viewed',
      done: true,
      since: { kind: 'period', amount: 3, unit: 'days' },
      where: [],
      times: 2,
      per: 'product',
    },
    entry: { ...plainEntry, again: 'after-days', days: 30 },
    goal: did('order.placed'),
    cap: { ...plainCap, priority: 4, yields: 'skip' },
    steps: [
      wait(1, 'days'),
      making(
        ids.offers.look,
        email(
          'Still wondering?',
          'Still wondering about the {{ event.product | default: "kit" }}?',
          'Three questions, three short answers.',
          [
            text(
              ['Hello ', first, ','],
              [
                'You have looked at the ',
                { path: 'event.product', fallback: 'kit', filters: [] },
                ' more than once. These are the three questions that people ask before they decide.',
              ],
            ),
            looked(),
            code(),
            button('The three questions', '{{ event.page }}'),
            footer(letters),
          ],
          { window: weekdays },
        ),
      ),
    ],
  };
}

/** Somebody takes a place at an open evening: a reminder the day before, and a timer that counts to its beginning. */
export function openBench(ids: DemoIds): Sequence {
  return {
    ...blankSequence('Open bench evening', null),
    triggers: [{ kind: 'event', event: 'form.sent', where: [{ field: 'form', op: 'is', value: 'open bench' }] }],
    entry: { ...plainEntry, again: 'after-leaving' },
    steps: [
      email(
        'A place at the bench',
        'Your place at the bench is kept',
        'Thursday at seven, and what to bring.',
        [
          text(
            ['Hello ', first, ','],
            [
              'Your place is kept: ',
              { path: 'event.starts_at', fallback: 'on Thursday', filters: [], format: 'moment' },
              '. Bring one book that needs a hand, or none at all.',
            ],
          ),
          timer('Medal', 'event.starts_at'),
          button('The way to us', 'https://foldwell.example/open-bench'),
          signature('Until Thursday,'),
          footer('You took a place at our open bench.'),
        ],
        {},
        ids.tomasz,
      ),
      waitAt({ kind: 'date', field: 'event.starts_at', days: -1, minute: 10 * 60, passed: 'leave' }),
      email(
        'Tomorrow at seven',
        'Tomorrow at the bench',
        'The door opens ten minutes before.',
        [
          text(['Hello ', first, ','], 'Tomorrow it is. The door opens ten minutes before, and there is tea.'),
          timer('Medal', 'event.starts_at'),
          button('The way to us', 'https://foldwell.example/open-bench'),
          footer('You took a place at our open bench.'),
        ],
        {},
        ids.tomasz,
      ),
    ],
  };
}

export function firstKit(ids: DemoIds): Sequence {
  return {
    ...blankSequence('First kit, first week', ids.letters),
    triggers: [{ kind: 'event', event: 'order.placed', where: [] }],
    steps: [
      wait(4, 'days'),
      {
        ...common(),
        kind: 'branch',
        name: 'A large order',
        arms: [
          {
            id: id(),
            condition: {
              kind: 'event',
              event: 'order.placed',
              done: true,
              since: { kind: 'ever' },
              where: [{ field: 'total', op: 'over', value: 40 }],
            },
            steps: [
              email(
                'Where to begin',
                'Several kits: where to begin',
                'With the smallest, always.',
                [
                  text(
                    ['Hello ', first, ','],
                    'You have several things in front of you. Begin with the smallest: it is the one that you will finish.',
                  ),
                  button('The order we suggest', 'https://foldwell.example/learn/order'),
                  footer(letters),
                ],
                { window: weekdays },
                ids.tomasz,
              ),
            ],
          },
          {
            id: id(),
            condition: null,
            steps: [
              email(
                'The first evening',
                'Your first evening with the kit',
                'Clear the table, wax the thread.',
                [
                  text(
                    ['Hello ', first, ','],
                    'By now the kit should lie in front of you. Clear the table, wax the thread twice, and leave the knife in its sleeve until page six.',
                  ),
                  button('Page six, slowly', 'https://foldwell.example/learn/page-six'),
                  footer(letters),
                ],
                { window: weekdays },
                ids.tomasz,
              ),
            ],
          },
        ],
      },
    ],
  };
}
