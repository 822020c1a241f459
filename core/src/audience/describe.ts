import type { Atom, Condition, FieldTest, Since } from './condition-schema.ts';
import { periodWords } from '../time/index.ts';

/** The event that a download through one of our emails is kept as. */
export const FILE_EVENT = 'file.downloaded';

/** Names that a condition refers to by id or key. Each answers with a word for the screen. */
export interface Names {
  list: (id: string) => string;
  event: (name: string) => string;
  step: (id: string) => string;
  file: (id: string) => string;
  segment: (id: string) => string;
  sequence: (id: string) => string;
  offer: (id: string) => string;
}

const same = (id: string) => id;
export const plainNames: Names = {
  list: same,
  event: same,
  step: same,
  file: same,
  segment: same,
  sequence: same,
  offer: same,
};

const label = (field: string) => field.replaceAll('_', ' ').replaceAll('.', ' ');

const wanted = ({ value }: FieldTest) =>
  value === undefined
    ? '…'
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : typeof value === 'string'
        ? `“${value}”`
        : String(value);

/** A test on a field of an event: "total over 25". */
export function describeTest(test: FieldTest): string {
  return test.op === 'is set' || test.op === 'is not set'
    ? `${label(test.field)} ${test.op}`
    : `${label(test.field)} ${test.op} ${wanted(test)}`;
}

/** The same behind "with": "with total over 25", "with form “course”". */
export const describeWhere = (test: FieldTest): string =>
  test.op === 'is' ? `${label(test.field)} ${wanted(test)}` : describeTest(test);

/** A test on an attribute of a person: "has a skill that is “new”". */
function describeAttribute(test: FieldTest): string {
  if (test.op === 'is set') return `has a value for ${label(test.field)}`;
  if (test.op === 'is not set') return `has no value for ${label(test.field)}`;
  const verb = test.op === 'is' || test.op === 'is not' || test.op === 'contains' ? test.op : `is ${test.op}`;
  return `has a value for ${label(test.field)} that ${verb} ${wanted(test)}`;
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
      return describeAttribute(atom.test);
    case 'tag':
      return `${atom.has ? 'has' : 'does not have'} the tag “${atom.tag}”`;
    case 'list':
      return `is ${atom.on ? '' : 'not '}on “${names.list(atom.list)}”`;
    case 'event': {
      const file = atom.event === FILE_EVENT ? atom.where.find((t) => t.field === 'file' && t.op === 'is') : undefined;
      if (file && atom.where.length === 1 && atom.times === undefined)
        return `${atom.done ? 'downloaded' : 'did not download'} “${names.file(String(file.value))}” ${describeSince(atom.since, names)}`;
      const same = atom.per ? ` for the same ${label(atom.per)}` : '';
      const often = atom.times ? ` ${atom.times} times or more${same}` : '';
      const where = atom.where.length ? ` with ${atom.where.map(describeWhere).join(' and ')}` : '';
      return `${atom.done ? 'did' : 'did not do'} “${names.event(atom.event)}”${often}${where} ${describeSince(atom.since, names)}`;
    }
    case 'segment':
      return `is ${atom.in ? '' : 'not '}in the segment “${names.segment(atom.segment)}”`;
    case 'offer': {
      const state = {
        open: 'is open',
        closing: `closes within ${periodWords(atom.within.amount, atom.within.unit)}`,
        closed: 'has closed',
        used: 'was used',
      }[atom.state];
      return `${atom.is ? '' : 'not: '}“${names.offer(atom.offer)}” ${state} for them`;
    }
    case 'points':
      return `has ${atom.op} ${atom.value} points`;
    case 'email':
      if (atom.what === 'opened') return `${atom.did ? 'opened' : 'did not open'} “${names.step(atom.step)}”`;
      return `${atom.did ? 'clicked' : 'did not click'} ${atom.link === undefined ? '' : `“${names.file(atom.link.replace(/^file:/, ''))}” `}in “${names.step(atom.step)}”`;
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
