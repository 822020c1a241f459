export {
  confirmationSubjects,
  confirmationWords,
  joiningWords,
  type ConfirmationWords,
  type JoiningWords,
} from './joining.ts';
export { leavingWords, type LeavingWords } from './leaving.ts';
export {
  languageName,
  languageNameIn,
  unsubscribeWords,
  writtenLanguages,
  writtenSchema,
  type Written,
} from './written.ts';
export { currencyDecimals, toMajor, toMinor } from './currencies.ts';
export { durationText, plural, unitLabel } from './durations.ts';
export {
  dateStyles,
  dateText,
  instantOf,
  languages,
  moneyText,
  numberText,
  tableOf,
  type DateStyle,
  type Locale,
} from './format.ts';
