export type { Asking } from './asking.ts';
export {
  askedByAtoms,
  atomKinds,
  atomSchema,
  FILE_EVENT,
  kindOfAtom,
  matchingEvent,
  sampleAtom,
  type Asked,
  type Atom,
  type AtomName,
  type AtomOf,
  type Picker,
  type SampleWorld,
} from './atoms/index.ts';
export { atomsOf, conditionSchema, isAtom, type Condition } from './condition-schema.ts';
export { evaluate, heldSince, nextTurn } from './conditions.ts';
export { describe } from './describe.ts';
export {
  factsAbout,
  RESUBSCRIBED_EVENT,
  zoneOfPerson,
  type EmailFact,
  type EventFact,
  type Facts,
  type Mailing,
  type MailStatus,
  type MembershipState,
  type PersonFacts,
  type Value,
} from './facts.ts';
export {
  DATE_TEXT,
  describeTest,
  describeWhere,
  fieldTestSchema,
  NUMBER_TEXT,
  operators,
  readPath,
  testField,
  type FieldTest,
  type Operator,
} from './field-test.ts';
export { plainNames, type Names } from './names.ts';
export { shareOf } from './share.ts';
export { describeSince, sinceSchema, type Period, type Since } from './since.ts';
