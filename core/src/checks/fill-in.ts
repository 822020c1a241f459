import { contentOf } from '../email/index.ts';
import { emailCheck } from './check.ts';

/** Words that a pattern leaves to be filled in, such as "[your shop]", and the stuffing of layouts. */
const FILL_IN = /\[your [^\]\n]{1,60}\]|lorem ipsum/i;

export const fillInWords = emailCheck('fill-in-words', 'error', ({ email, name }) => {
  const { templates, texts } = contentOf(email);
  const all = [...templates, ...texts.map((t) => ({ ...t, source: t.text }))];
  return all.flatMap(({ source, block, place }) => {
    const left = FILL_IN.exec(source)?.[0];
    return left
      ? [{ block, part: place, message: `“${left}” still stands in “${name}”.`, fix: 'Write your own words there.' }]
      : [];
  });
});
