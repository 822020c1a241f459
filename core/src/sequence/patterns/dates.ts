import type { Pattern } from './builder.ts';

// Patterns that count towards a moment: a session, an opening.

export const sessionOnADate: Pattern = {
  id: 'session-on-a-date',
  name: 'Session on a date',
  what: 'They booked a session: the confirmation, a reminder the day before and an hour before, thanks the day after.',
  yours: ['the event of the booking, with the field that holds its start', 'where it takes place', 'the links'],
  build: (b) => {
    const start = 'event.starts_at';
    return b.sequence('Session on a date', {
      triggers: [{ kind: 'event', event: b.event('session.booked'), where: [] }],
      entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
      cap: { exempt: true, priority: 1, yields: 'later' },
      steps: [
        b.email({
          name: 'Booked',
          subject: 'Your place is booked',
          preview: 'When, where, and what to bring.',
          text: [
            'Your place is booked. You will find the hour, the way and what to bring on the page behind the button. We remind you the day before.',
          ],
          button: 'When and where',
        }),
        b.waitAt({ kind: 'date', field: start, days: -1, minute: 9 * 60, passed: 'go-on' }),
        b.email({
          name: 'Tomorrow',
          subject: 'Tomorrow it is',
          preview: 'The way, and what to bring.',
          text: ['Tomorrow is the day. Come ten minutes early: the door at [your address] opens then.'],
          button: 'The way there',
        }),
        b.waitAt({ kind: 'date', field: start, days: 1, minute: 10 * 60, passed: 'leave' }),
        b.email({
          name: 'Thank you',
          subject: 'Good to have had you',
          preview: 'What we promised to send.',
          text: ['Thank you for coming. Here is what we promised to send, and the dates that come next.'],
          button: 'What we promised',
        }),
      ],
    });
  },
};

export const bookedUntilItHappens: Pattern = {
  id: 'booked-until-it-happens',
  name: 'Booked until it happens',
  what: 'Somebody asked for a date and has not chosen one: reminders until they do, two weeks at most.',
  yours: [
    'the event that begins it and the one that ends it',
    'the page with the free dates',
    'who on your team is told',
  ],
  build: (b) => {
    const ask = (title: string, subject: string, text: string) =>
      b.email({
        name: title,
        subject,
        preview: 'Three days are still free.',
        window: true,
        text: [text],
        button: 'Choose a day',
      });
    return b.sequence('Booked until it happens', {
      triggers: [{ kind: 'event', event: '', where: [] }],
      entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
      goal: b.did('session.booked'),
      steps: [
        ask(
          'Choose a day',
          'Which day suits you?',
          'You asked us for a date. Here are the days that are free this month; the earlier ones go first.',
        ),
        b.wait(3, 'days'),
        ask(
          'Still free',
          'Some days are still free',
          'You have not chosen a day yet. Some are still free; behind the button you see which.',
        ),
        b.wait(7, 'days'),
        ask(
          'Last reminder',
          'Shall we keep a place for you?',
          'If none of the days suits you, reply to this letter and say which would. We will find one.',
        ),
        b.wait(4, 'days'),
        b.action({
          type: 'tell-team',
          to: '',
          text: '{{ subscriber.email }} asked for a date and has not chosen one in two weeks. A call may help.',
        }),
      ],
    });
  },
};

export const launch: Pattern = {
  id: 'launch',
  name: 'Launch',
  what: 'Something new opens on a day: the story, the opening, an answer to doubts, the last day; it ends when they buy.',
  yours: ['who gets it: add a segment by hand', 'the event of an order', 'the page, in four places', 'what it is'],
  build: (b) => {
    const opening = b.email({
      name: 'It is open',
      subject: 'It is open',
      preview: 'Until Sunday evening.',
      text: [
        'It is here. Everything about [your new thing] stands on one page: what it is, whom it is for, and whom it is not for.',
        'It stays open until Sunday evening.',
      ],
      button: 'Have a look',
    });
    return b.sequence('Launch', {
      triggers: [{ kind: 'hand' }],
      goal: b.did('order.paid'),
      cap: { exempt: false, priority: 2, yields: 'later' },
      steps: [
        b.email({
          name: 'Why we made it',
          subject: 'Something we have been working on',
          preview: 'It took eleven tries.',
          text: [
            'For the past year we have been working on something at [your shop]. It took eleven tries. On Thursday you will see the twelfth.',
          ],
        }),
        b.waitAt({ kind: 'weekday', days: [4], minute: 9 * 60 }),
        opening,
        b.wait(1, 'days'),
        b.branch(
          'Had a look',
          b.read('clicked', opening, true),
          [
            b.email({
              name: 'Doubts',
              subject: 'Is it for you? An honest answer',
              preview: 'For some it is not.',
              text: [
                'You had a look. If you are in two minds, here are the four questions that others asked, answered without selling.',
              ],
              button: 'The four questions',
            }),
          ],
          [
            b.email({
              name: 'In one picture',
              subject: 'In one picture',
              preview: 'If you have ten seconds.',
              text: ['If you have ten seconds, look at this one picture. If it says nothing to you, leave it at that.'],
              button: 'See the picture',
            }),
          ],
        ),
        b.waitAt({ kind: 'weekday', days: [0], minute: 10 * 60 }),
        b.email({
          name: 'Last day',
          subject: 'It closes tonight',
          preview: 'The last word about it.',
          text: [
            'Tonight it closes. No second chance next week, no secret door: we have to start making what was ordered.',
          ],
          button: 'Have a last look',
        }),
      ],
    });
  },
};
