import type { Atom, Condition, FieldTest, Since } from './conditions.ts';
import { periodWords } from '../time/index.ts';

/** The event that a download through one of our emails is kept as. */
export const FILE_EVENT = 'file.downloaded';

/** Names that a condition refers to by id or key. Each answers with a word for the screen. */
export interface Names {
  list: (id: string) => string;
  event: (name: string) => string;
  step: (id: string) => string;
  file: (id: string) => string;
}

export const plainNames: Names = { list: (id) => id, event: (n) => n, step: (id) => id, file: (id) => id };

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
      const file = atom.event === FILE_EVENT ? atom.where.find((t) => t.field === 'file' && t.op === 'is') : undefined;
      if (file && atom.where.length === 1 && atom.times === undefined)
        return `${atom.done ? 'downloaded' : 'did not download'} “${names.file(String(file.value))}” ${describeSince(atom.since, names)}`;
      const often = atom.times ? ` ${atom.times} times or more` : '';
      const where = atom.where.length ? ` with ${atom.where.map(describeTest).join(' and ')}` : '';
      return `${atom.done ? 'did' : 'did not do'} “${names.event(atom.event)}”${often}${where} ${describeSince(atom.since, names)}`;
    }
    case 'email':
      return atom.link === undefined
        ? `${atom.did ? '' : 'not '}${atom.what} “${names.step(atom.step)}”`
        : `${atom.did ? '' : 'not '}clicked “${names.file(atom.link.replace(/^file:/, ''))}” in “${names.step(atom.step)}”`;
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
