import { blankSequence, copyStep, type EmailStep, type Sequence, type Step } from '@ascenso/core';
import {
  button,
  code,
  common,
  divider,
  email,
  first,
  footer,
  id,
  image,
  letters,
  making,
  text,
  timer,
  wait,
  weekdays,
} from '../letters.ts';
import type { DemoIds } from './ids.ts';

/** A split of one email and the same under another subject. */
const ways = (name: string, step: EmailStep, { name: other, subject }: { name: string; subject: string }): Step => {
  const copy = copyStep(step, id) as EmailStep;
  return {
    ...common(),
    kind: 'split',
    name,
    arms: [
      { id: id(), weight: 50, steps: [step] },
      { id: id(), weight: 50, steps: [{ ...copy, name: other, email: { ...copy.email, subject } }] },
    ],
  };
};

export function welcome(ids: DemoIds): Sequence {
  const delivery = email(
    'Guide delivery',
    'Your stitch guide is here, {{ subscriber.first_name | default: "reader" }}',
    'Five stitches, one page each, ready to print.',
    [
      text(
        ['Hello ', first, ','],
        'Here is the stitch guide you asked for: five stitches, one page each, drawn at the bench. Print it at full size and keep it beside the needle.',
      ),
      image(ids.pictures.cover, 'The cover of the stitch guide: a folded signature with five lines of thread'),
      button('Get the stitch guide', `file:${ids.guide}`),
      text('Tomorrow I will ask you which stitch you tried first. Hit reply, we read every one.'),
      footer(letters),
    ],
    { thenTag: 'stitch-guide', note: 'Subject changed on 12 Feb: “here” instead of “attached”.' },
  );
  const firstStitch = email(
    'First stitch',
    'Which stitch did you try first?',
    'Hit reply, we read every one.',
    [
      text(
        ['Hello ', first, ','],
        'You have the guide. Which stitch did you try first? The pamphlet stitch forgives everything; the long stitch shows every hurry.',
        'If the thread tangles, it is too long: an arm’s length is enough.',
      ),
      button('See it done slowly', 'https://foldwell.example/learn/pamphlet-stitch'),
      footer(letters),
    ],
    {},
    ids.tomasz,
  );
  const reminder = email(
    'Guide reminder',
    'Still on the bench: your stitch guide',
    'In case yesterday’s letter got buried.',
    [
      text(
        ['Hello ', first, ','],
        'Yesterday’s letter may have got buried. Your guide is still here, one button away.',
      ),
      button('Get the stitch guide', `file:${ids.guide}`),
      footer(letters),
    ],
  );
  const papers = email(
    'Three papers',
    'Three papers that fold without cracking',
    'Grain first, weight second, colour last.',
    [
      text(
        ['Hello ', first, ','],
        'Paper has a direction, like wood. Fold along the grain and it lies flat; fold across it and it cracks, however good it is.',
      ),
      image(ids.pictures.papers, 'Three stacks of paper in cream, sage and rose'),
      text('These three have never let us down: cream at 120 grams, sage at 100, and a rose that takes a pencil well.'),
      button('Feel the papers', 'https://foldwell.example/paper'),
      footer(letters),
    ],
    { window: weekdays },
  );
  const kits = email(
    'Which kit to start with',
    'Which kit to start with, honestly',
    'It is not the dearest one.',
    [
      text(
        ['Hello ', first, ','],
        'People ask which kit to start with. The honest answer: the pamphlet kit, and only then the long stitch. The Coptic one can wait until your hands know the needle.',
      ),
      image(ids.pictures.kits, 'Three starter kits side by side'),
      button('Compare the kits', 'https://foldwell.example/kits'),
      divider(),
      text('Whatever you choose, reply with a picture of the first book. We keep them all.'),
      footer(letters),
    ],
    { window: weekdays },
  );
  const offer = making(
    ids.offers.kit,
    email(
      'Kit offer',
      '{{ offer.words }}, until {{ offer.deadline | date: "moment" }}',
      'A code of your own, and 48 hours.',
      [
        text(
          ['Hello ', first, ','],
          [
            'If you would like to begin with one of the kits: here is ',
            { path: 'offer.words', fallback: null, filters: [] },
            '. The code is yours alone, and good until the timer stands at zero.',
          ],
        ),
        code(),
        timer('Board'),
        button('Choose a kit', 'https://foldwell.example/kits'),
        footer(letters),
      ],
    ),
  );
  const last = making(
    ids.offers.kit,
    email('Kit offer closes', 'Your code closes in {{ offer.left }}', 'The same code, the same hour.', [
      text(
        ['Hello ', first, ','],
        [
          'The kits do not run away, but the code does: on ',
          { path: 'offer.deadline', fallback: null, filters: [], format: 'moment' },
          ', where you are.',
        ],
      ),
      code(),
      timer('Board'),
      button('Choose a kit', 'https://foldwell.example/kits'),
      footer(letters),
    ]),
  );
  return {
    ...blankSequence('Welcome and stitch guide', ids.letters),
    about: 'Brings whoever asked for the stitch guide to a first kit.',
    triggers: [{ kind: 'list', list: ids.letters, what: 'joined' }],
    steps: [
      delivery,
      wait(1, 'days'),
      {
        ...common(),
        kind: 'branch',
        name: 'Downloaded the guide',
        arms: [
          {
            id: id(),
            name: 'Downloaded it',
            condition: {
              kind: 'event',
              event: 'file.downloaded',
              done: true,
              since: { kind: 'step', step: delivery.id },
              where: [],
            },
            steps: [firstStitch],
          },
          { id: id(), condition: null, steps: [reminder] },
        ],
      },
      wait(3, 'days'),
      ways('Test of “Three papers”', papers, {
        name: 'Three papers, as a question',
        subject: 'Which paper folds without cracking?',
      }),
      wait(5, 'days'),
      ways('Test of “Which kit to start with”', kits, {
        name: 'Which kit to start with, in other words',
        subject: 'Three kits, and where to begin',
      }),
      wait(2, 'days'),
      offer,
      wait(30, 'hours'),
      last,
      { ...common(), kind: 'action', action: { type: 'add-tag', tag: 'welcomed' } },
    ],
  };
}
