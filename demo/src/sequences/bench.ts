import { blankSequence, plainEntry, type Sequence } from '@ascenso/core';
import { button, common, email, first, footer, id, letters, text, wait, weekdays } from '../letters.ts';
import type { DemoIds } from './ids.ts';

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

export function firstKit(ids: DemoIds): Sequence {
  return {
    ...blankSequence('First kit, first week', ids.letters),
    triggers: [{ kind: 'event', event: 'order.paid', where: [] }],
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
              event: 'order.paid',
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
