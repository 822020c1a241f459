import { askedByAtoms, atomsOf, type Asked, type Condition } from '../audience/index.ts';
import { conditionsOfEmail } from '../email/index.ts';
import type { Action, Sequence, Step } from './schema.ts';
import { emailSteps, walk } from './tree.ts';

/** What the decisions of a version can ask for. */
export interface Needs extends Asked {
  /** True when somebody can stand at a wait for something: then openings and clicks have to be looked at as they come. */
  waits: boolean;
  /** True when it changes what is known of the person, or starts or stops another sequence. */
  changes: boolean;
}

/** Steps that speak to somebody else and leave the person as they are. */
const SPEAKS: ReadonlySet<Action['type']> = new Set(['tell-team', 'call-webhook']);

const changesPerson = (step: Step): boolean =>
  step.kind === 'action'
    ? !SPEAKS.has(step.action.type)
    : step.kind === 'email' && (step.thenTag !== '' || step.thenPoints !== 0);

/** Every condition that a version can be asked for: of arms, emails, the goal, the rule for leaving and entry. */
export function conditionsOf(sequence: Sequence): Condition[] {
  const ofSteps = walk(sequence).flatMap(({ step }) =>
    step.kind === 'branch'
      ? step.arms.map((a) => a.condition)
      : step.kind === 'email'
        ? [step.forWhom]
        : step.kind === 'until'
          ? [step.condition]
          : [],
  );
  return [...ofSteps, sequence.goal, sequence.exit, sequence.filter].filter((c) => c != null);
}

/** Those, and what the content of emails asks when it is sent: all that a sequence refers to by its conditions. */
export const everyCondition = (sequence: Sequence): Condition[] => [
  ...conditionsOf(sequence),
  ...walk(sequence).flatMap(({ step }) => (step.kind === 'email' ? conditionsOfEmail(step.email) : [])),
];

/** What conditions ask for, so that a server loads it for a thousand people at once. */
export const askedBy = (conditions: readonly Condition[]): Asked => askedByAtoms(conditions.flatMap(atomsOf));

/** Offers that emails of a sequence make. */
export const offersOf = (sequence: Sequence): string[] => [
  ...new Set(emailSteps(sequence).flatMap((s) => (s.email.offer ? [s.email.offer] : []))),
];

export function needs(sequence: Sequence): Needs {
  const asked = askedBy(conditionsOf(sequence));
  return {
    ...asked,
    offers: [...new Set([...asked.offers, ...offersOf(sequence)])],
    lists: sequence.list !== null || asked.lists,
    waits: walk(sequence).some(({ step }) => step.kind === 'until' && step.on),
    changes: walk(sequence).some(({ step }) => changesPerson(step)),
  };
}
