import { blockKinds } from '../email/index.ts';
import type { CapRules, EmailStep, EntryRules, Sequence, Step, StepKind } from './schema.ts';

/** A new email step with a text, a button and the footer, ready to be written in. */
export function blankEmail(newId: () => string, name = 'New email'): EmailStep {
  return {
    id: newId(),
    kind: 'email',
    on: true,
    note: '',
    name,
    window: null,
    forWhom: null,
    thenTag: '',
    thenPoints: 0,
    email: {
      sender: '',
      subject: '',
      preview: '',
      blocks: [blockKinds.text.blank(newId), blockKinds.button.blank(newId), blockKinds.footer.blank(newId)],
    },
  };
}

/** A new step of a kind, with ids from `newId`. */
export function blankStep(kind: StepKind, newId: () => string): Step {
  const common = { id: newId(), on: true, note: '' };
  switch (kind) {
    case 'email':
      return blankEmail(newId);
    case 'wait':
      return { ...common, kind: 'wait', amount: 1, unit: 'days', at: null };
    case 'action':
      return { ...common, kind: 'action', action: { type: 'add-tag', tag: '' } };
    case 'leave':
      return { ...common, kind: 'leave' };
    case 'split':
      return {
        ...common,
        kind: 'split',
        name: '',
        arms: [
          { id: newId(), weight: 50, steps: [] },
          { id: newId(), weight: 50, steps: [] },
        ],
      };
    case 'until':
      return {
        ...common,
        kind: 'until',
        name: '',
        amount: 3,
        unit: 'days',
        condition: { kind: 'event', event: '', done: true, since: { kind: 'entry' }, where: [] },
        arms: [
          { id: newId(), steps: [] },
          { id: newId(), steps: [] },
        ],
      };
    case 'branch':
      return {
        ...common,
        kind: 'branch',
        name: '',
        arms: [
          {
            id: newId(),
            condition: { kind: 'event', event: '', done: true, since: { kind: 'entry' }, where: [] },
            steps: [],
          },
          { id: newId(), condition: null, steps: [] },
        ],
      };
  }
}

/** What a sequence begins with: everyone once, nobody held out, an ordinary place in the queue. */
export const plainEntry: EntryRules = { again: 'once', days: 30, key: '', holdout: 0 };
export const plainCap: CapRules = { exempt: false, priority: 3, yields: 'later' };

/** A new sequence without steps. */
export function blankSequence(name: string, list: string | null): Sequence {
  return {
    name,
    about: '',
    triggers: [{ kind: 'list', list: '', what: 'joined' }],
    filter: null,
    entry: plainEntry,
    list,
    goal: null,
    exit: null,
    cap: plainCap,
    steps: [],
  };
}

/** A one-off send: one email, to everybody who may enter, on a day that is still to be chosen. */
export function blankOneOff(name: string, list: string | null, newId: () => string): Sequence {
  return {
    ...blankSequence(name, list),
    triggers: [{ kind: 'moment', when: 'day', day: '', minute: 9 * 60, zone: null }],
    steps: [blankEmail(newId, name)],
  };
}
