import { attributeOf, contentOf, elementsOf, modeOf, type Email } from '../../email/index.ts';
import { saidIn, type Said } from '../said.ts';
import { bodySigns, subjectSigns, type Sign } from './signs.ts';

/** A reason for which a filter counts points against an email, and where it stands. */
export interface SpamReason extends Pick<Sign, 'rule' | 'points' | 'says'> {
  block: string | null;
  place: string | null;
}

/** Words of the body: what the filters read behind the headers. */
const bodyOf = (email: Email): Said[] => saidIn(email).filter((s) => s.place !== 'subject' && s.place !== 'toName');

const inWords = (signs: readonly Sign[], said: readonly Said[]): SpamReason[] =>
  signs.flatMap(({ rule, points, says, find }) => {
    const found = said.find((s) => find.test(s.text));
    return found ? [{ rule, points, says, block: found.block, place: found.place }] : [];
  });

const tokens = (text: string): ReadonlySet<string> => new Set(text.toLowerCase().match(/[\p{L}\p{N}]{4,}/gu) ?? []);
/** Where a plain text of one's own stands. */
const PLAIN = 'plain text';
/** A plain text that shares so little with the designed email is another email. */
const SHARED = 0.01;

/** A plain text of one's own that says something else than the designed part: filters read both. */
function otherText(email: Email): SpamReason[] {
  if (!email.text || modeOf(email) === 'text') return [];
  const plain = tokens(email.text.words);
  const words = bodyOf(email).filter((s) => s.place !== PLAIN);
  const designed = [...tokens(words.map((s) => s.text).join(' '))];
  const shared = designed.filter((w) => plain.has(w)).length;
  return designed.length > 0 && shared / designed.length <= SHARED
    ? [
        {
          rule: 'MPART_ALT_DIFF',
          points: 2.2,
          says: 'the plain text says something else than the designed email',
          block: null,
          place: PLAIN,
        },
      ]
    : [];
}

const white = /^(#fff(fff)?|white|rgb\(255,\s*255,\s*255\))$/i;
const styleOf = (style: string, name: string) =>
  new RegExp(`(?:^|;)\\s*${name}\\s*:\\s*([^;!]+)`, 'i').exec(style)?.[1]?.trim();

/** Words in a source that are as pale as what they stand on. */
function unseen(email: Email): SpamReason[] {
  const hidden = contentOf(email).html.find(({ source }) =>
    elementsOf(source).some((e) => {
      const style = attributeOf(e, 'style') ?? '';
      const color = styleOf(style, 'color') ?? attributeOf(e, 'color') ?? '';
      const ground = styleOf(style, 'background(?:-color)?') ?? attributeOf(e, 'bgcolor') ?? '';
      return color !== '' && (color.toLowerCase() === ground.toLowerCase() || (white.test(color) && ground === ''));
    }),
  );
  return hidden
    ? [
        {
          rule: 'HTML_FONT_LOW_CONTRAST',
          points: 0.7,
          says: 'words stand there that nobody can see',
          block: hidden.block,
          place: hidden.place,
        },
      ]
    : [];
}

/** What filters would count against an email, the heaviest first. Other checks tell of capitals, marks and pictures. */
export function spamReasons(email: Email): SpamReason[] {
  const subject = [{ text: email.subject, block: null, place: 'subject' }];
  const body = bodyOf(email);
  return [
    ...inWords(subjectSigns, subject),
    // Filters read the subject as the first line of the body too.
    ...inWords(bodySigns, [...body, ...subject]),
    ...otherText(email),
    ...unseen(email),
  ].sort((a, b) => b.points - a.points);
}

/** Their points together, in those of SpamAssassin, which takes five for spam. */
export const pointsOf = (reasons: readonly SpamReason[]): number =>
  Math.round(reasons.reduce((sum, r) => sum + r.points, 0) * 10) / 10;
