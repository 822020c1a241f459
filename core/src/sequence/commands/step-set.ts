import { stepSchema } from '../schema.ts';
import { mustFind, setField, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** Settings of a split that it can be without. */
const OF_SPLIT: ReadonlySet<string> = new Set(['rule']);

/** One setting of a step. */
export const stepSet: CommandKind<'step.set'> = {
  change: (doc, c) => {
    const { step } = mustFind(doc, c.step);
    const old = setField(step, c.field, c.value, stepSchema, step.kind === 'split' ? OF_SPLIT : undefined);
    return { ...c, value: old ?? null };
  },
  scope: (c) => ({ writes: [[`${stepKey(c.step)}/${c.field}`, c.value]], works: [stepKey(c.step)] }),
};
