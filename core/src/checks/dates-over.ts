import { isOneOff, momentRange, reaches, type Sequence } from '../sequence/index.ts';
import { DAY } from '../time/index.ts';
import { tableOf } from '../words/index.ts';
import { emailCheck } from './check.ts';
import { saidIn } from './said.ts';

/** Words that make a day an end: until, by, ends. In the ten languages of the house (common practice, from memory). */
const UNTIL =
  "(?:until|till|til|through|by|before|ends?(?: on)?|closes?(?: on)?|expires?(?: on)?|deadline|bis(?: zum)?|endet am|jusqu[’']au|avant le|hasta(?: el)?|antes del|até(?: a| ao)?|antes de|fino al|entro il|tot(?: en met)?|do(?: dnia)?|till och med|t\\.o\\.m\\.|senast|til og med|inden)";
/** Further back than this, a day is told as history: "until 1 March 2019 we were in Porto". */
const LATELY = 60 * DAY;

/** Days that a text sets as an end, as midnight UTC of the day after (epoch ms): the day itself still counts. */
function endsIn(text: string, language: string, near: number): { words: string; over: number }[] {
  const { months } = tableOf(language);
  const names = months.flatMap((m) => [m, ...(m.length > 4 ? [m.slice(0, 3)] : [])]);
  const month = names.map((n) => n.replaceAll('.', '\\.')).join('|');
  const day = `(\\d{1,2})(?:st|nd|rd|th|\\.|º|er)?`;
  const of = '(?: de| of)?';
  const year = `(?:,?(?: de)? (\\d{4}))?`;
  const forms = [
    new RegExp(`(?<!\\p{L})${UNTIL}\\s+(?:\\p{L}+,?\\s+)?${day}${of} (${month})\\.?(?!\\p{L})${year}`, 'giu'),
    new RegExp(`(?<!\\p{L})${UNTIL}\\s+(?:\\p{L}+,?\\s+)?(${month})\\.? ${day}(?!\\d)${year}`, 'giu'),
  ];
  const numberOf = (name: string) =>
    months.findIndex((m) => m.toLowerCase().startsWith(name.toLowerCase().replace('.', '').slice(0, 3)));
  return forms.flatMap((form, i) =>
    [...text.matchAll(form)].flatMap(([words, a = '', b = '', told]) => {
      const [d, m] = i === 0 ? [Number(a), numberOf(b)] : [Number(b), numberOf(a)];
      if (m < 0 || d < 1 || d > 31) return [];
      const ends = (y: number) => Date.UTC(y, m, d) + DAY;
      if (told) return [{ words, over: ends(Number(told)) }];
      // Without a year it is one that has just passed, or else the next one.
      const here = new Date(near).getUTCFullYear();
      const all = [here - 1, here, here + 1].map(ends);
      const over = all.find((t) => t <= near && near - t < LATELY) ?? all.find((t) => t > near) ?? ends(here + 1);
      return [{ words, over }];
    }),
  );
}

/** The earliest moment (epoch ms) at which an email can go out: nobody gets it before. */
function firstSending(sequence: Sequence, step: string, now: number): number {
  const begins = sequence.triggers.map((t) => (t.kind === 'moment' ? (momentRange(t)?.first ?? now) : now));
  return Math.max(now, Math.min(...begins)) + (reaches(sequence).get(step)?.from ?? 0);
}

/**
 * A day that a text sets as an end, and that is over when the email goes out; or, of an email that goes out again and again, that
 * will be over for whoever comes to it later.
 */
export const datesOver = emailCheck('dates-over', 'error', ({ id, email, name }, { now, style }, sequence) => {
  if (now === undefined) return [];
  const goes = firstSending(sequence, id, now);
  const language = email.language ?? style.language;
  return saidIn(email).flatMap(({ text, block, place }) => {
    const ends = endsIn(text, language, goes);
    // Wherever on earth the reader is, a day is over half a day later at the latest (UTC-12).
    const past = ends.find(({ over }) => goes >= over + DAY / 2 && goes - over < LATELY);
    if (past)
      return [
        {
          block,
          part: place,
          message: `“${past.words}” in “${name}” is over when it goes out.`,
          fix: 'Write another day, or let the offer’s own deadline stand there.',
        },
      ];
    const [coming] = isOneOff(sequence) ? [] : ends.filter(({ over }) => over > goes);
    return coming
      ? [
          {
            block,
            part: place,
            level: 'warning' as const,
            message: `“${coming.words}” in “${name}” will be over for whoever comes to this email later.`,
            fix: 'Let a deadline that counts from each reader stand there, or take it out in time.',
          },
        ]
      : [];
  });
});
