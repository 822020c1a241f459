import { stepSchema } from '../schema.ts';
import { mustFind, setField, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** One setting of a step. */
export const stepSet: CommandKind<'step.set'> = {
  change: (doc, c) => ({ ...c, value: setField(mustFind(doc, c.step).step, c.field, c.value, stepSchema) }),
  scope: (c) => ({ writes: [[`${stepKey(c.step)}/${c.field}`, c.value]], works: [stepKey(c.step)] }),
};
