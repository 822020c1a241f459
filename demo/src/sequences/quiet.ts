import { blankSequence, blockKinds, plainCap, plainEntry, type Block, type Sequence } from '@ascenso/core';
import {
  did,
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
  text,
  wait,
  weekdays,
} from '../letters.ts';
import type { DemoIds } from './ids.ts';

/** What they looked at lately, whatever it was that started this. */
const looked = (): Block => ({
  ...blockKinds.repeat.blank(id),
  list: 'recent.item.viewed',
  limit: 3,
  title: { on: true, field: 'product' },
  quantity: { on: false, field: '' },
  link: 'page',
  button: { on: true, label: 'Look again' },
});

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

export function lookedTwice(ids: DemoIds): Sequence {
  return {
    ...blankSequence('Looked twice, no order', ids.letters),
    about: 'Helps to choose; whoever begins an order has chosen, and leaves.',
    exit: did('order.begun'),
    triggers: [{ kind: 'event', event: 'item.viewed', where: [] }],
    filter: {
      kind: 'event',
      event: 'item.viewed',
      done: true,
      since: { kind: 'period', amount: 3, unit: 'days' },
      where: [],
      times: 2,
      per: 'product',
    },
    entry: { ...plainEntry, again: 'after-days', days: 30 },
    goal: did('order.paid'),
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
