import { emailCheck } from './check.ts';
import { saidIn } from './said.ts';

/** Capitals and figures together, as codes are written: SPRING20, K7-4XQ2. */
const CODE =
  /(?<![\p{L}\d/@#._-])(?=[A-Z0-9-]{0,19}[A-Z])(?=[A-Z0-9-]{0,19}\d)[A-Z0-9]{2,}(?:-[A-Z0-9]+)*(?![\p{L}\d/@_-])/gu;
/** Words that say what it is for (common practice, from memory). */
const ABOUT =
  /(?<!\p{L})(?:codes?|coupons?|vouchers?|discount|código|cupón|cupom|gutschein(?:code)?|rabatt(?:code)?|codice|buono|kortingscode|kod|rabattkod|rabatkode|remise)(?!\p{L})|%\s?(?:off|discount)/iu;
const LEAST = 5;

/** What reads as a code, and is none that an offer gives: nobody would get anything for it. */
export const strayCodes = emailCheck('stray-code', 'warning', ({ email, name }, { offers }) => {
  const given = new Set(
    offers.flatMap(({ offer: { codes, empty } }) => [
      ...(codes.kind === 'shared' ? [codes.code.toUpperCase()] : []),
      ...(empty.kind === 'shared' ? [empty.code.toUpperCase()] : []),
    ]),
  );
  return saidIn(email).flatMap(({ text, block, place }) => {
    if (!ABOUT.test(text)) return [];
    const stray = [...text.matchAll(CODE)].map(([c]) => c).find((c) => c.length >= LEAST && !given.has(c));
    return stray === undefined
      ? []
      : [
          {
            block,
            part: place,
            message: `“${stray}” in “${name}” reads as a code, and no offer gives it.`,
            fix: 'Put in the code of an offer, or make sure that the shop takes this one.',
          },
        ];
  });
});
