import { atomsOf } from '../audience/index.ts';
import { everyCondition, offersOf } from './needs.ts';
import type { Sequence, Step } from './schema.ts';
import { copySteps, emailSteps, walk } from './tree.ts';

const LONGEST_NAME = 120;

/**
 * Copies of steps for a sequence, with new ids. Each email gets a name that neither it there nor its original has: "Lesson 1
 * (copy)", "Lesson 1 (copy 2)".
 */
export function namedCopies(steps: readonly Step[], into: Pick<Sequence, 'steps'>, newId: () => string): Step[] {
  const taken = new Set([...emailSteps(into), ...emailSteps({ steps: [...steps] })].map((e) => e.name));
  const copies = copySteps(steps, newId);
  for (const email of emailSteps({ steps: copies })) {
    if (email.name === '') continue;
    const first = email.name.replace(/ \(copy(?: \d+)?\)$/, '');
    for (let n = 1; taken.has(email.name); n++) {
      const mark = n === 1 ? ' (copy)' : ` (copy ${n})`;
      email.name = `${first.slice(0, LONGEST_NAME - mark.length)}${mark}`;
    }
    taken.add(email.name);
  }
  return copies;
}

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
