import type { Pattern } from './builder.ts';

// Patterns for people who have just come: the first email at once, then days apart (common practice, no published source).

export const firstWelcome: Pattern = {
  id: 'first-welcome',
  name: 'First welcome',
  what: 'Somebody joins a list: three letters that say who you are and what will come.',
  yours: ['the list that starts it', 'the name of your shop, in two places', 'where the two buttons lead'],
  build: (b) =>
    b.sequence('First welcome', {
      triggers: [b.joins()],
      steps: [
        b.email({
          name: 'Welcome',
          subject: 'Good that you are here',
          preview: 'What you will get from us, and how often.',
          text: [
            'Thank you for joining us at [your shop]. This is what you can count on: a letter every other week, written by a person, about one thing at a time.',
            'If you ever wonder about something, reply to any of them. It reaches us.',
          ],
        }),
        b.wait(2, 'days'),
        b.email({
          name: 'Where we come from',
          subject: 'How this began',
          preview: 'It was not planned.',
          window: true,
          text: [
            'Most of what we know we learned by doing it badly first. [your shop] began at a kitchen table, with one customer and too much ambition.',
            'Here is the short version, with pictures.',
          ],
          button: 'Read how it began',
        }),
        b.wait(3, 'days'),
        b.email({
          name: 'Where to start',
          subject: 'If you only try one thing',
          preview: 'What most people begin with.',
          window: true,
          text: [
            'People ask where to begin. Here is the honest answer: with the thing that more people come back for than any other.',
            'And if it is not for you, tell us. We would rather know.',
          ],
          button: 'See where most people begin',
        }),
      ],
    }),
};

export const guideDelivery: Pattern = {
  id: 'guide-delivery',
  name: 'Guide delivery',
  what: 'Somebody asks for a guide: it goes out at once, and again to whoever did not fetch it.',
  yours: ['the list or form that starts it', 'the file behind both buttons', 'what the guide is about'],
  build: (b) => {
    const delivery = b.email({
      name: 'Guide',
      subject: 'Here is your guide',
      preview: 'Ready to print, or to read on your phone.',
      text: [
        'Here is the guide that you asked for. Keep it where you will need it: it is made to be used, not to be filed.',
      ],
      button: 'Get the guide',
    });
    return b.sequence('Guide delivery', {
      triggers: [b.joins()],
      steps: [
        delivery,
        b.wait(1, 'days'),
        b.branch(
          'Fetched the guide',
          b.read('clicked', delivery, true),
          [
            b.email({
              name: 'Which page?',
              subject: 'Which page did you need most?',
              preview: 'Hit reply, it is read.',
              text: [
                'You have the guide now. Which page did you turn to first? Your answer decides what the next edition says more about.',
              ],
            }),
          ],
          [
            b.email({
              name: 'Guide again',
              subject: 'Your guide is still here',
              preview: 'In case yesterday’s letter got buried.',
              text: ['Yesterday’s letter may have got buried. Your guide is still here, one button away.'],
              button: 'Get the guide',
            }),
          ],
        ),
        b.wait(3, 'days'),
        b.email({
          name: 'What comes after',
          subject: 'What most people do next',
          preview: 'A small step, not a leap.',
          window: true,
          text: [
            'Once the guide has been used a few times, the same question comes up: what now? Here is what we tell people who ask us at [your shop].',
          ],
          button: 'See the next step',
        }),
      ],
    });
  },
};

export const gettingToKnow: Pattern = {
  id: 'getting-to-know',
  name: 'Getting to know',
  what: 'Two short questions, and what follows depends on what they click.',
  yours: ['the list that starts it', 'the two links of the first letter', 'the tag that tells the groups apart'],
  build: (b) => {
    const question = b.email({
      name: 'The question',
      subject: 'One question, two answers',
      preview: 'So that we write what you can use.',
      text: [
        'Before we send you anything else: are you just starting, or have you done this for years? Click the button if you are just starting. If not, do nothing at all.',
      ],
      button: 'I am just starting',
    });
    return b.sequence('Getting to know', {
      triggers: [b.joins()],
      steps: [
        question,
        b.wait(2, 'days'),
        b.branch(
          'Just starting',
          b.read('clicked', question, true),
          [
            b.action({ type: 'add-tag', tag: 'just-starting' }),
            b.email({
              name: 'For beginners',
              subject: 'Three things nobody tells beginners',
              preview: 'They cost us a year each.',
              window: true,
              text: [
                'One: the cheap tool costs more. Two: nobody sees the fault that you see. Three: finish the first one, however it looks.',
              ],
              button: 'Start with the first',
            }),
          ],
          [
            b.email({
              name: 'For the seasoned',
              subject: 'For those who have done this before',
              preview: 'Short, and without the basics.',
              window: true,
              text: [
                'You know the basics, so here is what we changed our minds about this year at [your shop], and why.',
              ],
              button: 'Read what changed',
            }),
          ],
        ),
      ],
    });
  },
};

export const courseByEmail: Pattern = {
  id: 'course-by-email',
  name: 'Course by email',
  what: 'One lesson each weekday evening; the next waits until the last was opened, two days at most.',
  yours: ['the list that starts it', 'the words and the link of each lesson', 'the hour that suits your people'],
  build: (b) => {
    const lesson = (n: number, title: string, text: string) =>
      b.email({
        name: `Lesson ${n}`,
        subject: `Lesson ${n}: ${title}`,
        preview: 'A quarter of an hour is enough.',
        text: [text],
        button: `Open lesson ${n}`,
      });
    const evening = () => b.waitAt({ kind: 'weekday', days: [1, 2, 3, 4], minute: 19 * 60 });
    const lessons = [
      lesson(
        1,
        'what you need, and what you do not',
        'Most of what is sold for this you will not need. Lay out what is on the list in the lesson, and leave the rest in the shop.',
      ),
      lesson(
        2,
        'the first try',
        'Tonight you do it once, quickly, without caring how it looks. Tomorrow you will see what to care about.',
      ),
      lesson(
        3,
        'the same again, slowly',
        'The same as yesterday, at half the speed. Nobody who did it twice ever asked for a third explanation.',
      ),
      lesson(4, 'finishing', 'Finish it tonight, with its faults. Then reply with a picture: every one is answered.'),
    ];
    return b.sequence('Course by email', {
      triggers: [b.joins()],
      steps: [
        b.email({
          name: 'It begins',
          subject: 'Your course begins',
          preview: 'Four evenings, a quarter of an hour each.',
          text: [
            'Four evenings, one lesson each, at seven o’clock where you are. If an evening does not suit you, the lesson waits.',
          ],
        }),
        ...lessons.flatMap((l, i) => {
          const before = lessons[i - 1];
          return [...(before ? [b.until('', b.read('opened', before, true), 2, [], [])] : []), evening(), l];
        }),
        b.action({ type: 'add-tag', tag: 'course-finished' }),
      ],
    });
  },
};
