export type { EmailFact, EventFact, Facts, MailStatus, MembershipState, PersonFacts, Value } from './facts.ts';
export {
  atomsOf,
  conditionSchema,
  evaluate,
  fieldTestSchema,
  matchingEvent,
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
export { describe, describeSince, describeTest, plainNames, type Names } from './describe.ts';
