import { blankSequence, plainEntry, type Sequence } from '@ascenso/core';
import { did, button, email, first, footer, letters, signature, text, timer, wait, waitAt } from '../letters.ts';
import type { DemoIds } from './ids.ts';

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
