import { emailSchema, optionalOfEmail } from '../../email/index.ts';
import { emailOf, setField, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** One part of the envelope of an email. */
export const emailSet: CommandKind<'email.set'> = {
  change: (doc, c) => ({
    ...c,
    value: setField(emailOf(doc, c.step), c.field, c.value, emailSchema, optionalOfEmail) ?? null,
  }),
  scope: (c) => ({ writes: [[`${stepKey(c.step)}/email.${c.field}`, c.value]], works: [stepKey(c.step)] }),
};
