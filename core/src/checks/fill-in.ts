import { contentOf } from '../email/index.ts';
import { emailCheck } from './check.ts';

/**
 * Words that are left to be filled in: in brackets, as patterns leave them; the stuffing of layouts; notes to oneself.
 * Common practice, no published source. Notes count in capitals only: "todo" is a word in two languages.
 */
const FILL_IN = [
  /\[(?=[^\]\n]{0,80}\p{L})(?:your|name|first name|last name|company|shop|product|price|date|link|text|title|insert|add|put)\b[^\]\n]{0,60}\]/iu,
  /<(?:your|insert|add) [^>\n]{1,60}>/iu,
  /lorem ipsum|dolor sit amet/iu,
  /\b(?:TODO|TBD|TBC|FIXME|XXX+)\b/u,
  /_{4,}/u,
  // Places for a value as other programs mark them: between percent signs, in square, angle or double brackets, in braces of one.
  /(?<![\p{L}\d%])%{1,2}[A-Z_][A-Z0-9_]{2,30}%{1,2}(?![\p{L}\d])/u,
  /%[a-z]+_[a-z_]{1,30}%/u,
  /\[\[[^\]\n]{1,40}\]\]|\[[A-Z][A-Z0-9]{2,20}(?:[_ ][A-Z0-9]{1,20}){0,3}\]/u,
  /<<[^<>\n]{1,40}>>/u,
  /(?<![{\p{L}])\$?\{[a-z_][a-z0-9_. ]{1,30}\}(?!\})/iu,
  /\b(?:insert|add) (?:\p{L}+ ){0,3}here\b|\byour (?:text|headline|title|link|company|shop|name|logo) here\b/iu,
];

export const fillInWords = emailCheck('fill-in-words', 'error', ({ email, name }) => {
  const { templates, texts } = contentOf(email);
  const all = [...templates, ...texts.map((t) => ({ ...t, source: t.text }))];
  return all.flatMap(({ source, block, place }) => {
    const left = FILL_IN.map((form) => form.exec(source)?.[0]).find((found) => found !== undefined);
    return left
      ? [{ block, part: place, message: `“${left}” still stands in “${name}”.`, fix: 'Write your own words there.' }]
      : [];
  });
});
