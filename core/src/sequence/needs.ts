import { atomsOf, type Condition } from '../audience/index.ts';
import type { Sequence } from './schema.ts';
import { walk } from './tree.ts';

/** What the decisions of a version can ask for, so that a server loads it for a thousand visits at once. */
export interface Needs {
  /** Names of events that some condition looks for. */
  events: string[];
  /** True when a condition asks what became of an email of the sequence. */
  emails: boolean;
}

export function conditionsOf(sequence: Sequence): Condition[] {
  const arms = walk(sequence).flatMap((v) => (v.step.kind === 'branch' ? v.step.arms : []));
  return [...arms.flatMap((a) => (a.condition ? [a.condition] : [])), ...(sequence.goal ? [sequence.goal] : [])];
}

export function needs(sequence: Sequence): Needs {
  const atoms = conditionsOf(sequence).flatMap(atomsOf);
  return {
    events: [...new Set(atoms.flatMap((a) => (a.kind === 'event' ? [a.event] : [])))],
    emails: atoms.some((a) => a.kind === 'email'),
  };
}
