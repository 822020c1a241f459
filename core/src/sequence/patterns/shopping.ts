import type { Builder, Pattern } from './builder.ts';

// Patterns for people who were about to buy. Told apart by how far they got: looked, put into the cart, began to order.

const ordered = (b: Builder) => b.did('order.paid');

export const abandonedCheckout: Pattern = {
  id: 'abandoned-checkout',
  name: 'Abandoned checkout',
  what: 'Somebody begins to order and stops: their cart after an hour, help a day later, a code that closes after two days.',
  yours: [
    'the event that says a checkout was started',
    'which fields of it show the lines',
    'the offer of the last email',
    'the links of the buttons',
  ],
  build: (b) =>
    b.sequence('Abandoned checkout', {
      triggers: [{ kind: 'event', event: b.event('order.begun'), where: [] }],
      entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
      goal: ordered(b),
      steps: [
        b.wait(1, 'hours'),
        b.email({
          name: 'Your cart',
          subject: 'Your cart is as you left it',
          preview: 'Nothing has been lost.',
          text: ['You were about to order, and then something came up. Nothing has been lost: it is all here.'],
          lines: 'event.lines',
          button: 'Back to my cart',
        }),
        b.wait(1, 'days'),
        b.email({
          name: 'Anything unclear?',
          subject: 'Was something unclear?',
          preview: 'Reply, and somebody at [your shop] answers.',
          window: true,
          text: [
            'If something held you back, reply to this letter: the price of the post, the size, the time it takes. Somebody at [your shop] answers, usually the same day.',
          ],
          button: 'Back to my cart',
        }),
        b.wait(1, 'days'),
        b.email({
          name: 'A code for it',
          subject: 'Something towards your cart',
          preview: 'For two days.',
          offer: true,
          text: [
            'Your cart is still here. Perhaps this helps you decide: it is yours alone, and good until the timer stands at zero.',
          ],
          lines: 'event.lines',
          button: 'Finish my order',
        }),
      ],
    }),
};

export const leftInTheCart: Pattern = {
  id: 'left-in-the-cart',
  name: 'Left in the cart',
  what: 'Somebody puts things into the cart and never begins to order: a reminder the same day, and one question later.',
  yours: [
    'the event that says something was put into the cart',
    'which fields of it show the lines',
    'the links of the two buttons',
  ],
  build: (b) =>
    b.sequence('Left in the cart', {
      triggers: [{ kind: 'event', event: b.event('cart.filled'), where: [] }],
      entry: { again: 'after-days', days: 14, key: '', holdout: 0 },
      goal: { kind: 'any', of: [ordered(b), b.did('order.begun')] },
      steps: [
        b.wait(4, 'hours'),
        b.email({
          name: 'Put aside',
          subject: 'We have put it aside for you',
          preview: 'It waits until you have a minute.',
          window: true,
          text: ['You had put something aside. It waits until you have a minute.'],
          lines: 'event.lines',
          button: 'Look at it again',
        }),
        b.wait(3, 'days'),
        b.email({
          name: 'The one question',
          subject: 'What would you like to know first?',
          preview: 'Three answers, in short.',
          window: true,
          text: [
            'Before people decide, they ask us how long it takes, what it weighs, and whether it can be sent back. Here are the answers, in short.',
          ],
          button: 'The three answers',
        }),
      ],
    }),
};

export const lookedAndLeft: Pattern = {
  id: 'looked-and-left',
  name: 'Looked and left',
  what: 'Somebody looks at the same thing twice within three days and does not order: what they looked at, a day later.',
  yours: [
    'the event that says a page of the shop was looked at',
    'which of its fields tells one thing from another',
    'the link of the button',
  ],
  build: (b) => {
    const viewed = b.event('item.viewed');
    return b.sequence('Looked and left', {
      triggers: [{ kind: 'event', event: viewed, where: [] }],
      filter: {
        kind: 'event',
        event: viewed,
        done: true,
        since: { kind: 'period', amount: 3, unit: 'days' },
        where: [],
        times: 2,
      },
      entry: { again: 'after-days', days: 30, key: '', holdout: 0 },
      goal: ordered(b),
      steps: [
        b.wait(1, 'days'),
        b.email({
          name: 'Still wondering?',
          subject: 'Still wondering?',
          preview: 'What you looked at, and three short answers.',
          window: true,
          text: [
            'You looked at this more than once. If you are in two minds, these are the three things that people ask us at [your shop] before they decide.',
          ],
          lines: viewed ? `recent.${viewed}` : '',
          button: 'The three answers',
        }),
      ],
    });
  },
};
