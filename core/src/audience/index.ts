export type { EmailFact, EventFact, Facts, Mailing, MailStatus, MembershipState, PersonFacts, Value } from './facts.ts';
export {
  atomsOf,
  atomSchema,
  conditionSchema,
  fieldTestSchema,
  operators,
  sinceSchema,
  type Atom,
  type Condition,
  type FieldTest,
  type Operator,
  type Since,
} from './condition-schema.ts';
export {
  DATE_TEXT,
  evaluate,
  heldSince,
  matchingEvent,
  NUMBER_TEXT,
  readPath,
  testField,
  type Asking,
} from './conditions.ts';
export { RESUBSCRIBED_EVENT } from './facts.ts';
export { shareOf } from './share.ts';
export {
  describe,
  describeSince,
  describeTest,
  describeWhere,
  FILE_EVENT,
  plainNames,
  type Names,
} from './describe.ts';
