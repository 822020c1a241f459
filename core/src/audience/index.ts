export { needsUtf8, readAddress, type ReadAddress } from './address.ts';
export type { Asking } from './asking.ts';
export {
  askedByAtoms,
  askedTogether,
  atomKinds,
  atomSchema,
  dayWindow,
  FILE_EVENT,
  HOST_PATTERN,
  joinedWords,
  kindOfAtom,
  matchingEvent,
  sampleAtom,
  spokenOf,
  type Asked,
  type Atom,
  type AtomName,
  type AtomOf,
  type DayWindow,
  type Picker,
  type SampleWorld,
} from './atoms/index.ts';
export { atomsOf, conditionSchema, isAtom, type Condition } from './condition-schema.ts';
export { evaluate, heldSince, nextTurn } from './conditions.ts';
export { describe } from './describe.ts';
export {
  factsAbout,
  joinedHow,
  RESUBSCRIBED_EVENT,
  zoneOfPerson,
  type EmailFact,
  type EventFact,
  type Facts,
  type Mailing,
  type JoinedHow,
  type MailFact,
  type MailStatus,
  type MembershipState,
  type PersonFacts,
  type SequenceFact,
  type TestFact,
  type Value,
} from './facts.ts';
export {
  DATE_TEXT,
  describeTest,
  fieldTestSchema,
  NUMBER_TEXT,
  operators,
  firstOf,
  readPath,
  testField,
  valuesOf,
  withWords,
  type FieldTest,
  type Operator,
} from './field-test.ts';
export { plainNames, type Names } from './names.ts';
export { shareOf } from './share.ts';
export { describeSince, periodSchema, sinceSchema, type Period, type Since } from './since.ts';
