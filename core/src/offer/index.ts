export { CheckCharacter } from './check-character.ts';
export {
  alphabets,
  codeAt,
  fitsPattern,
  oddsOf,
  patternSchema,
  permute,
  plainCode,
  sampleOf,
  spaceOf,
  type AlphabetName,
  type CodePattern,
  type Scramble,
} from './pattern.ts';
export {
  afterSchema,
  blankOffer,
  CODE,
  deadlineSchema,
  discountSchema,
  isUnique,
  sharedKeys,
  offerSchema,
  sampleCode,
  wallSchema,
  zoneSchema,
  type After,
  type Codes,
  type Deadline,
  type Discount,
  type Offer,
} from './schema.ts';
export { closesAt, instantOfWall, type Opening } from './deadline.ts';
export { fromOlder } from './older.ts';
export { discountText, figureText, offerText } from './promise.ts';
export { OFFER_FIELDS, offerValues, sampleGiven, withSamples } from './values.ts';
export {
  EXPIRED_EVENT,
  ISSUED_EVENT,
  SEEN_EVENT,
  USED_EVENT,
  offerState,
  offerStates,
  type Given,
  type OfferFact,
  type OfferState,
} from './state.ts';
export { encodeFrame, indexBits, joinGif, type Patch, type Rgb } from './timer/gif.ts';
export {
  faceSchema,
  figuresAt,
  layoutFace,
  timerFaces,
  timerFonts,
  timerUnits,
  wholeFace,
  type Box,
  type FaceLayout,
  type TimerFace,
  type TimerFaceName,
  type TimerFont,
  type TimerUnit,
  type UnitBox,
} from './timer/face.ts';
export { describeCodes, describeDeadline, describeEmpty, describeOffer, type OfferNames } from './describe.ts';
