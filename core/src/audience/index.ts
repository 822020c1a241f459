export type { EmailFact, EventFact, Facts, Mailing, MailStatus, MembershipState, PersonFacts, Value } from './facts.ts';
export {
  atomsOf,
  conditionSchema,
  evaluate,
  fieldTestSchema,
  heldSince,
  DATE_TEXT,
  matchingEvent,
  NUMBER_TEXT,
  operators,
  readPath,
  sinceSchema,
  testField,
  type Asking,
  type Atom,
  type Condition,
  type FieldTest,
  type Operator,
  type Since,
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
