import { blankSequence, plainEntry, type Condition, type Sequence } from '@ascenso/core';
import {
  button,
  cartLines,
  code,
  common,
  email,
  first,
  footer,
  id,
  letters,
  making,
  signature,
  tagged,
  text,
  timer,
  wait,
  when,
} from '../letters.ts';
import type { DemoIds } from './ids.ts';

export function leftAtCheckout(ids: DemoIds): Sequence {
  const still = email(
    'Still in the cart',
    'Your cart is still open, {{ subscriber.first_name | default: "reader" }}',
    'Nothing has been lost. It is all there.',
    [
      text(
        ['Hello ', first, ','],
        [
          'You were about to order for ',
          { path: 'event.total', fallback: '', filters: [], format: 'money' },
          '. Nothing has been lost: the cart is as you left it.',
        ],
      ),
      cartLines(),
      button('Back to my cart', '{{ event.return_to }}'),
      when(text('Club members: your paper of the month ships with it, so there is one parcel and no second postage.'), {
        chain: 'if',
        condition: { kind: 'attribute', test: { field: 'plan', op: 'is', value: 'paper club' } },
      }),
      when(text('You have a kit of ours already: the thread in the new one fits the old needle.'), {
        chain: 'elseif',
        condition: tagged('kit-owner'),
      }),
      when(text('First book? Reply to this letter and we say honestly which kit to begin with.'), { chain: 'else' }),
      footer(letters),
    ],
  );
  const help = email(
    'Anything unclear?',
    'Anything unclear about your order?',
    'Reply to this letter: a bookbinder answers.',
    [
      text(
        ['Hello ', first, ','],
        'If something held you back, reply to this letter. A bookbinder answers, usually the same day.',
      ),
      button('Back to my cart', '{{ event.return_to }}'),
      signature('Until soon,'),
      footer(letters),
    ],
    {},
    ids.tomasz,
  );
  const coded = making(
    ids.offers.cart,
    email(
      'A code for the cart',
      'For your cart: {{ offer.words }}',
      'Good until {{ offer.deadline | date: "moment" }}.',
      [
        text(
          ['Hello ', first, ','],
          [
            'Your cart is still here. Finish it by ',
            { path: 'offer.deadline', fallback: null, filters: [], format: 'moment' },
            ' and take this with it:',
          ],
        ),
        code(),
        timer('Press'),
        cartLines(),
        button('Back to my cart', '{{ event.return_to }}'),
        footer(letters),
      ],
    ),
  );
  const large: Condition = {
    kind: 'event',
    event: 'order.begun',
    done: true,
    since: { kind: 'period', amount: 3, unit: 'days' },
    where: [{ field: 'total', op: 'over', value: 25 }],
  };
  const ordered = {
    kind: 'event' as const,
    event: 'order.paid',
    done: true,
    since: { kind: 'entry' as const },
    where: [],
  };
  return {
    ...blankSequence('Left at checkout', ids.letters),
    about: 'Gets begun orders finished, with a code only for the larger carts.',
    triggers: [{ kind: 'event', event: 'order.begun', where: [{ field: 'total', op: 'over', value: 10 }] }],
    // Some carts are left alone, so that one can tell what the letters bring.
    entry: { ...plainEntry, again: 'after-leaving', holdout: 20 },
    goal: ordered,
    steps: [
      wait(1, 'hours'),
      still,
      wait(1, 'days'),
      {
        ...common(),
        kind: 'branch',
        name: 'A cart over 25 €',
        arms: [
          { id: id(), condition: large, steps: [coded] },
          { id: id(), condition: null, steps: [help] },
        ],
      },
    ],
  };
}
