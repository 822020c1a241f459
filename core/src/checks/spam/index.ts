import { emailCheck } from '../check.ts';
import { pointsOf, spamReasons } from './score.ts';

/** From here on it is worth a word: each filter counts differently, and adds what it knows of the house. */
const TOLD = 0.5;

/** What filters would count against the words of an email, with its reasons. */
export const readsAsSpam = emailCheck('reads-as-spam', 'warning', ({ email, name }) => {
  const found = spamReasons(email);
  const [first] = found;
  const score = pointsOf(found);
  if (!first || score < TOLD) return [];
  const reasons = found.slice(0, 4).map((r) => `${r.says} (${r.points})`);
  return [
    {
      block: first.block,
      part: first.place,
      message: `“${name}” reads like spam to filters: ${score} points of the 5 at which many stop. Counted: ${reasons.join(', ')}.`,
      fix: 'Say it in other words, or leave it out.',
    },
  ];
});

export { pointsOf, spamReasons, type SpamReason } from './score.ts';
