import type { Atom, Condition, FieldTest, Since } from './conditions.ts';
import { periodWords } from '../time/index.ts';

/** Names that a condition refers to by id or key. Each answers with a word for the screen. */
export interface Names {
  list: (id: string) => string;
  event: (name: string) => string;
  step: (id: string) => string;
}

export const plainNames: Names = { list: (id) => id, event: (n) => n, step: (id) => id };

const label = (field: string) => field.replaceAll('_', ' ').replaceAll('.', ' ');

export function describeTest(test: FieldTest): string {
  const value =
    test.value === undefined ? '…' : typeof test.value === 'string' ? `“${test.value}”` : String(test.value);
  return test.op === 'is set' || test.op === 'is not set'
    ? `${label(test.field)} ${test.op}`
    : `${label(test.field)} ${test.op} ${value}`;
}

export function describeSince(since: Since, names: Names): string {
  switch (since.kind) {
    case 'ever':
      return 'ever';
    case 'entry':
      return 'since joining the sequence';
    case 'step':
      return `any time since “${names.step(since.step)}”`;
    case 'period':
      return `in the last ${periodWords(since.amount, since.unit)}`;
  }
}

function describeAtom(atom: Atom, names: Names): string {
  switch (atom.kind) {
    case 'attribute':
      return describeTest(atom.test);
    case 'tag':
      return `${atom.has ? 'has' : 'does not have'} the tag “${atom.tag}”`;
    case 'list':
      return `is ${atom.on ? '' : 'not '}on “${names.list(atom.list)}”`;
    case 'event': {
      const where = atom.where.length ? ` with ${atom.where.map(describeTest).join(' and ')}` : '';
      return `${atom.done ? 'did' : 'did not do'} “${names.event(atom.event)}”${where} ${describeSince(atom.since, names)}`;
    }
    case 'email':
      return `${atom.did ? '' : 'not '}${atom.what} “${names.step(atom.step)}”`;
  }
}

/** The condition as a sentence: "did “Guide downloaded” any time since “Guide delivery”". */
export function describe(condition: Condition, names: Names = plainNames): string {
  switch (condition.kind) {
    case 'all':
    case 'any': {
      if (condition.of.length === 0) return condition.kind === 'all' ? 'everyone' : 'nobody';
      const word = condition.kind === 'all' ? ' and ' : ' or ';
      return condition.of
        .map((c) => (c.kind === 'all' || c.kind === 'any' ? `(${describe(c, names)})` : describe(c, names)))
        .join(word);
    }
    case 'not':
      return `not (${describe(condition.of, names)})`;
    default:
      return describeAtom(condition, names);
  }
}
