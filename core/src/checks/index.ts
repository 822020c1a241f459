import { readingOnce } from '../email/index.ts';
import type { Sequence } from '../sequence/index.ts';
import type { Check, CheckContext, Finding } from './check.ts';
import { rawBrace, rawBraceInNote } from './braces.ts';
import { sameHour } from './collisions.ts';
import { poorContrast } from './contrast.ts';
import { moneyUnwritten } from './money.ts';
import { missingFallback, senderWithout, unknownField, unknownFieldInNote } from './fields.ts';
import { fillInWords } from './fill-in.ts';
import { noUnsubscribe } from './footer.ts';
import { heavyPicture, missingAlt, mostlyPictures, noPicture } from './images.ts';
import { datesOver } from './dates-over.ts';
import { notPublic, oddHost } from './machines.ts';
import { strayCodes } from './stray-codes.ts';
import { testWords } from './test-words.ts';
import { activeMarkup } from './markup.ts';
import { brokenChain, brokenParts, emptyBlock, lostInText, sideScroll } from './layout.ts';
import { buttons, deadLink, numberLink, tooManyLinks } from './links.ts';
import { twoMainButtons } from './main-buttons.ts';
import { outsideShared, sequenceWithShared } from './shared.ts';
import { closesBefore, codesShort, twoOffers, withoutOffer } from './offers.ts';
import { heavyAttachments } from './attachments.ts';
import { askedUnseen } from './uncounted.ts';
import { armNeverTaken } from './arms.ts';
import { timerPassed } from './timers.ts';
import { momentPassed } from './moment.ts';
import { askedBeforeSent, askedTooSoon, neverReached, sameMinute } from './plan.ts';
import { otherFigure, otherPeriod } from './promises.ts';
import { defaultSender, replyAddress } from './sender.ts';
import { readsAsSpam } from './spam/index.ts';
import { misspelt } from './spelling.ts';
import { startsWhatIsNotLive, startsWithoutEvent } from './starting.ts';
import { exclamations, longSubject, noSubject, shouting } from './subject.ts';
import { notTested } from './tested.ts';
import { longWindow, stepOff } from './timing.ts';
import { decidedByNothing } from './tests.ts';
import { startsInACircle, startsOf, unfinished } from './unfinished.ts';
import { tooHeavy } from './weight.ts';
import { whomItMails } from './whom.ts';

/** All checks, in the order in which their findings are told. */
export const checks: readonly Check[] = [
  unfinished,
  momentPassed,
  whomItMails,
  startsInACircle,
  startsWhatIsNotLive,
  startsWithoutEvent,
  decidedByNothing,
  noSubject,
  fillInWords,
  testWords,
  datesOver,
  rawBrace,
  rawBraceInNote,
  unknownField,
  unknownFieldInNote,
  activeMarkup,
  brokenParts,
  brokenChain,
  withoutOffer,
  closesBefore,
  timerPassed,
  otherFigure,
  deadLink,
  notPublic,
  oddHost,
  noUnsubscribe,
  askedBeforeSent,
  askedTooSoon,
  askedUnseen,
  replyAddress,
  defaultSender,
  senderWithout,
  missingFallback,
  moneyUnwritten,
  emptyBlock,
  noPicture,
  missingAlt,
  poorContrast,
  sideScroll,
  heavyPicture,
  mostlyPictures,
  tooHeavy,
  heavyAttachments,
  buttons,
  twoMainButtons,
  tooManyLinks,
  numberLink,
  shouting,
  exclamations,
  readsAsSpam,
  longSubject,
  lostInText,
  misspelt,
  twoOffers,
  otherPeriod,
  codesShort,
  strayCodes,
  neverReached,
  armNeverTaken,
  sameMinute,
  stepOff,
  longWindow,
  sameHour,
  notTested,
];

/** Every finding of every check, what shared blocks hold included: errors first. */
export function runChecks(sequence: Sequence, context: CheckContext): Finding[] {
  const whole = sequenceWithShared(sequence, context.shared);
  const all = readingOnce(() => checks.flatMap((c) => c.run(whole, context))).map(outsideShared);
  return [...all.filter((f) => f.level === 'error'), ...all.filter((f) => f.level === 'warning')];
}

export type { Check, CheckContext, Finding, FindingPlace, KnownFile, Misspelling } from './check.ts';
export { momentsOf } from './collisions.ts';
export { addressFault, isPersonal } from './links.ts';
export { pointsOf, spamReasons, type SpamReason } from './spam/index.ts';
export { wordsOf } from './spelling.ts';
export { contentSign } from './tested.ts';
export { startsOf };
