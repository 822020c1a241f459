import { readTemplate } from '../email/index.ts';
import { emailCheck } from './check.ts';

export const noSubject = emailCheck('no-subject', 'error', ({ email, name }) =>
  email.subject.trim() === ''
    ? [{ part: 'subject', message: `“${name}” has no subject.`, fix: 'Write one: it is what people see first.' }]
    : [],
);

const stillText = (template: string) =>
  readTemplate(template)
    .pieces.filter((p) => typeof p === 'string')
    .join(' ');

/** Lower case but for the first letter; merge fields stay as they are. */
function calm(template: string): string {
  let first = true;
  return template
    .split(/(\{\{[^{}\n]*\}\})/)
    .map((part, i) => {
      if (i % 2 === 1) return part;
      const low = part.toLowerCase();
      if (!first || !/\p{L}/u.test(low)) return low;
      first = false;
      return low.replace(/\p{L}/u, (c) => c.toUpperCase());
    })
    .join('');
}

/** A subject all in capitals, as SpamAssassin's SUBJ_ALL_CAPS has it: several words, none of them in small letters. */
export const shouting = emailCheck('shouting', 'warning', ({ id, email }) => {
  const words = stillText(email.subject);
  const letters = words.replace(/[^\p{L}]/gu, '');
  const isLoud = letters.length >= 8 && /\s/.test(words.trim()) && letters === letters.toUpperCase();
  if (!isLoud) return [];
  return [
    {
      part: 'subject',
      message: 'The subject is all in capitals: it shouts, and filters count it.',
      fix: 'Write it as a sentence.',
      repair: {
        label: 'Write it in small letters',
        commands: [{ type: 'email.set', step: id, field: 'subject', value: calm(email.subject) }],
      },
    },
  ];
});

export const exclamations = emailCheck('exclamations', 'warning', ({ id, email }) => {
  const marks = stillText(email.subject).match(/!/g)?.length ?? 0;
  const both = ['?', '!'].every((mark) => stillText(email.subject).includes(mark));
  if (marks < 2 && !both) return [];
  let left = both ? 0 : 1;
  const quieter = email.subject.replace(/!/g, () => (left-- > 0 ? '!' : '')).trim();
  return [
    {
      part: 'subject',
      message: both
        ? 'The subject asks and exclaims at once: filters count that.'
        : `The subject has ${marks} exclamation marks.`,
      fix: both ? 'Keep the question, or the exclamation mark.' : 'One is enough, none is better.',
      repair: {
        label: 'Take them out',
        commands: [{ type: 'email.set', step: id, field: 'subject', value: quieter }],
      },
    },
  ];
});

/** What a phone shows of a subject (common practice, no published source); twice as much is cut nearly everywhere. */
const LONG = 80;

export const longSubject = emailCheck('long-subject', 'warning', ({ email }) => {
  const length = stillText(email.subject).trim().length;
  return length > LONG
    ? [
        {
          part: 'subject',
          message: `The subject has ${length} characters: a phone shows about 40 of them, and no inbox all.`,
          fix: 'Say the most important thing in the first 40.',
        },
      ]
    : [];
});
