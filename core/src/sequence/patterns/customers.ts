import type { Pattern } from './builder.ts';

// Patterns for people who buy, or used to.

export const afterPurchase: Pattern = {
  id: 'after-purchase',
  name: 'After a purchase',
  what: 'Somebody orders: how to begin, help a week later, and a question after two.',
  yours: ['the event that says an order was placed', 'the links of the three buttons', 'the name of your shop'],
  build: (b) =>
    b.sequence('After a purchase', {
      triggers: [{ kind: 'event', event: b.event('order.paid'), where: [] }],
      entry: { again: 'after-days', days: 60, key: '', holdout: 0 },
      steps: [
        b.wait(1, 'days'),
        b.email({
          name: 'While you wait',
          subject: 'While your parcel is on its way',
          preview: 'What to have ready when it comes.',
          text: [
            'Your order is being packed by hand at [your shop]. When it comes, have a free hour and a cleared table. The rest is in the box.',
          ],
          button: 'How to begin',
        }),
        b.wait(6, 'days'),
        b.email({
          name: 'First week',
          subject: 'How is the first week going?',
          preview: 'The three questions everybody has.',
          window: true,
          text: [
            'By now it has been on your table for some days. These are the three questions that come up in the first week, with short answers.',
          ],
          button: 'The three questions',
        }),
        b.wait(7, 'days'),
        b.email({
          name: 'A word back',
          subject: 'Would you tell somebody else?',
          preview: 'Two sentences help more than you think.',
          window: true,
          text: [
            'If you are content, two sentences from you help the next person decide. If you are not, reply to this letter instead: we will put it right.',
          ],
          button: 'Write two sentences',
        }),
      ],
    }),
};

export const feedback: Pattern = {
  id: 'feedback',
  name: 'Feedback',
  what: 'One question after something was finished, one reminder, and the team hears of every click.',
  yours: ['the event that it follows', 'the page where they answer', 'the address of whoever reads the answers'],
  build: (b) => {
    const ask = b.email({
      name: 'The question',
      subject: 'One question about last week',
      preview: 'It takes less than a minute.',
      window: true,
      text: ['You have just finished something with us. One question: what nearly made you stop?'],
      button: 'Answer in a sentence',
    });
    const thanks = () =>
      b.action({ type: 'tell-team', to: '', text: '{{ subscriber.email }} is answering the question.' });
    return b.sequence('Feedback', {
      triggers: [{ kind: 'event', event: '', where: [] }],
      entry: { again: 'after-days', days: 90, key: '', holdout: 0 },
      steps: [
        b.wait(3, 'days'),
        ask,
        b.until(
          'Answered',
          b.read('clicked', ask, true),
          4,
          [thanks()],
          [
            b.email({
              name: 'Once more',
              subject: 'Still curious what you think',
              preview: 'The last time we ask.',
              window: true,
              text: [
                'We asked you something a few days ago and would still like to know. After this letter we leave you in peace.',
              ],
              button: 'Answer in a sentence',
            }),
          ],
        ),
      ],
    });
  },
};

export const renewal: Pattern = {
  id: 'renewal',
  name: 'Renewal',
  what: 'Three weeks before a date: what is coming, a reminder a week before, and it ends when they renew.',
  yours: ['the date that it counts to', 'the event that says they renewed', 'the page where they renew'],
  build: (b) =>
    b.sequence('Renewal', {
      triggers: [{ kind: 'date', attribute: b.date('renews_on'), days: -21, minute: 9 * 60, yearly: false }],
      entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
      goal: b.did('club.renewed'),
      steps: [
        b.email({
          name: 'In three weeks',
          subject: 'Your year with us ends in three weeks',
          preview: 'What you had, and what would come.',
          text: [
            'In three weeks your year at [your shop] comes to its end. Here is what was in it, and what the next one holds.',
            'You need do nothing today.',
          ],
          button: 'See the coming year',
        }),
        b.wait(14, 'days'),
        b.email({
          name: 'In a week',
          subject: 'One week left',
          preview: 'It takes two minutes.',
          text: [
            'A week from now your place is given to somebody on the waiting list. If you want to keep it, two minutes are enough.',
          ],
          button: 'Keep my place',
        }),
        b.wait(6, 'days'),
        b.email({
          name: 'Tomorrow',
          subject: 'It ends tomorrow',
          preview: 'The last word about it.',
          text: [
            'Tomorrow is the last day. If you would rather stop, do nothing: there is no catch, and we part as friends.',
          ],
          button: 'Keep my place',
        }),
      ],
    }),
};

export const quietForLong: Pattern = {
  id: 'quiet-for-long',
  name: 'Quiet for long',
  what: 'Nothing opened for three months: two tries, then a goodbye that stops mailing who stays silent.',
  yours: ['how long is long for you', 'the list that they are taken off at the end', 'the two links'],
  build: (b) => {
    const goodbye = b.email({
      name: 'Goodbye',
      subject: 'Shall we stop writing to you?',
      preview: 'One click, and all stays as it is.',
      window: true,
      text: [
        'You have not opened our letters for a long time, and that is quite all right. If you would like to stay, click the button. If not, do nothing: this is the last one.',
      ],
      button: 'Keep the letters coming',
    });
    return b.sequence('Quiet for long', {
      triggers: [{ kind: 'quiet', what: 'opened', event: '', days: 90 }],
      entry: { again: 'after-days', days: 180, key: '', holdout: 0 },
      steps: [
        b.email({
          name: 'Best of',
          subject: 'What you have missed, in one letter',
          preview: 'The three that were read most.',
          window: true,
          text: ['It has been a while. Here are the three letters that were read most since you last looked in.'],
          button: 'The one that was read most',
        }),
        b.wait(10, 'days'),
        goodbye,
        b.until(
          'Wants to stay',
          b.read('clicked', goodbye, true),
          7,
          [b.action({ type: 'add-tag', tag: 'came-back' })],
          [b.action({ type: 'leave-list', list: b.ground.list ?? '' })],
        ),
      ],
    });
  },
};

export const birthday: Pattern = {
  id: 'birthday',
  name: 'Birthday',
  what: 'On their birthday, every year, at nine in the morning where they are.',
  yours: ['the attribute that holds the birthday', 'the small present behind the button'],
  build: (b) =>
    b.sequence('Birthday', {
      triggers: [{ kind: 'date', attribute: b.date('birthday'), days: 0, minute: 9 * 60, yearly: true }],
      entry: { again: 'after-leaving', days: 30, key: '', holdout: 0 },
      steps: [
        b.email({
          name: 'Birthday',
          subject: 'Happy birthday',
          preview: 'Something small, to print and keep.',
          text: [
            'Happy birthday from all of us at [your shop]. Here is something small, to print and keep. No code, no catch.',
          ],
          button: 'Open it',
        }),
      ],
    }),
};
