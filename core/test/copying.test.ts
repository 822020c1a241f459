import { describe, expect, test } from 'vitest';
import { belongings, copySteps, emailSteps, namedCopies, walk, type Condition, type Step } from '../src/index.ts';
import { branchStep, emailStep, id, waitStep } from './support.ts';

const opened = (step: string): Condition => ({ kind: 'email', step, what: 'opened', did: true });

describe('several steps copied together', () => {
  test('ask about each other’s copies, and still about what was left behind', () => {
    const [before, first, then] = [emailStep('Before'), emailStep('First'), emailStep('Then')];
    const branch = branchStep({ kind: 'all', of: [opened(first.id), opened(before.id)] }, [then], []);
    const copies = copySteps([first, waitStep(1), branch], id);
    const [copy, wait, fork] = copies;
    expect(walk({ steps: copies }).map(({ step }) => step.kind)).toEqual(['email', 'wait', 'branch', 'email']);
    expect(fork?.kind === 'branch' && fork.arms[0]?.condition).toEqual({
      kind: 'all',
      of: [opened(copy?.id ?? ''), opened(before.id)],
    });
    const old = walk({ steps: [first, branch] }).map(({ step }) => step.id);
    expect(walk({ steps: copies }).some(({ step }) => old.includes(step.id))).toBe(false);
    expect(wait?.id).not.toBe('');
  });

  test('bring along the tags, offers and questions of where they were, each once; what is asked among them is no such thing', () => {
    const email = { ...emailStep('Offer'), thenTag: 'asked-kit' };
    email.email.offer = 'kit';
    const again = { ...emailStep('Again'), forWhom: opened(email.id) };
    again.email.offer = 'kit';
    const other = branchStep(opened('elsewhere'), [again], []);
    const tag = { id: id(), on: true, note: '', kind: 'action', action: { type: 'remove-tag', tag: 'cold' } } as const;
    expect(belongings([email, other, tag])).toEqual({
      tags: ['asked-kit', 'cold'],
      offers: ['kit'],
      asked: ['elsewhere'],
    });
    expect(belongings([waitStep(1), emailStep('Plain')])).toEqual({ tags: [], offers: [], asked: [] });
  });

  test('each email is called by a name of its own, however often it is copied', () => {
    const first = emailStep('Lesson 1');
    const names = (steps: Step[]) => emailSteps({ steps }).map((e) => e.name);
    const second = namedCopies([first], { steps: [first] }, id);
    const third = namedCopies(second, { steps: [first, ...second] }, id);
    expect(names([...second, ...third])).toEqual(['Lesson 1 (copy)', 'Lesson 1 (copy 2)']);
    // Into another sequence too: the original stands somewhere.
    expect(names(namedCopies([first, branchStep(opened('x'), [emailStep('Two')], [])], { steps: [] }, id))).toEqual([
      'Lesson 1 (copy)',
      'Two (copy)',
    ]);
    const long = emailStep('x'.repeat(120));
    expect(names(namedCopies([long], { steps: [long] }, id))[0]).toBe(`${'x'.repeat(113)} (copy)`);
  });
});
