import { stepSchema, type StepKind } from '../schema.ts';
import { mustFind, setField, stepKey } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** Settings that a step can be without. */
const OPTIONAL: Partial<Record<StepKind, ReadonlySet<string>>> = { split: new Set(['rule']), wait: new Set(['more']) };

/** One setting of a step. */
export const stepSet: CommandKind<'step.set'> = {
  change: (doc, c) => {
    const { step } = mustFind(doc, c.step);
    const old = setField(step, c.field, c.value, stepSchema, OPTIONAL[step.kind]);
    return { ...c, value: old ?? null };
  },
  scope: (c) => ({ writes: [[`${stepKey(c.step)}/${c.field}`, c.value]], works: [stepKey(c.step)] }),
};
