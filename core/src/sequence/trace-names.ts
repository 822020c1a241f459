import { describe, type Names } from '../audience/index.ts';
import { armLabel, stepWords } from './describe.ts';
import type { Sequence } from './schema.ts';
import type { TraceNames } from './trace.ts';
import { armsOf, indexSteps } from './tree.ts';

/** Names for the sentences about one version: what the workspace calls things, and what the version itself does. */
export function traceNames(doc: Sequence | undefined, words: Omit<Names, 'step'>, zone: string): TraceNames {
  const steps = indexSteps(doc ?? { steps: [] });
  const names: TraceNames = {
    ...words,
    zone,
    filter: () => (doc?.filter ? describe(doc.filter, names) : 'fits'),
    forWhom: (id) => {
      const step = steps.get(id)?.step;
      return step?.kind === 'email' && step.forWhom ? describe(step.forWhom, names) : 'fits';
    },
    step: (id) => {
      const found = steps.get(id);
      return found ? stepWords(found.step, names) : 'a step that was deleted';
    },
    arm: (id) => {
      const fork = [...steps.values()].find(({ step }) => armsOf(step).some((a) => a.id === id));
      return fork ? armLabel(fork.step, id, names) : 'an arm that was deleted';
    },
  };
  return names;
}
