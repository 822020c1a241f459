import { atomsOf } from '../audience/index.ts';
import { everyCondition, offersOf } from './needs.ts';
import type { Sequence, Step } from './schema.ts';
import { walk } from './tree.ts';

/** What steps bring along from where they were written: after copying, each is to be looked at. */
export interface Belongings {
  /** Tags that they add or take off. */
  tags: string[];
  /** Offers that their emails make, by id. */
  offers: string[];
  /** Emails that they ask about and that are not among them, by step id. */
  asked: string[];
}

export function belongings(steps: readonly Step[]): Belongings {
  const part = { steps: [...steps], goal: null, filter: null } as unknown as Sequence;
  const inside = new Set(walk(part).map(({ step }) => step.id));
  const tags = walk(part).flatMap(({ step }) =>
    step.kind === 'email'
      ? [step.thenTag]
      : step.kind === 'action' && (step.action.type === 'add-tag' || step.action.type === 'remove-tag')
        ? [step.action.tag]
        : [],
  );
  const asked = everyCondition(part)
    .flatMap(atomsOf)
    .flatMap((a) => (a.kind === 'email' && !inside.has(a.step) ? [a.step] : []));
  const distinct = (all: string[]) => [...new Set(all.filter(Boolean))];
  return { tags: distinct(tags), offers: offersOf(part), asked: distinct(asked) };
}
