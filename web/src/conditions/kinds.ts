import type { Surroundings } from '@ascenso/contracts';
import { blankTest, type FieldChoice } from './field-tests.tsx';
import { emailSteps, FILE_EVENT, type Atom, type Condition, type Sequence } from '@ascenso/core';

/** What a condition is asked about: a person as they are now, one on their way through a sequence, or the rule of a segment. */
export type Scope = 'person' | 'visit' | 'segment';

/** What a row of a condition can say, in the order in which it is offered. */
export const rowKinds = [
  { kind: 'did', label: 'did an event' },
  { kind: 'did-not', label: 'did not do an event' },
  { kind: 'downloaded', label: 'downloaded a file' },
  { kind: 'not-downloaded', label: 'did not download a file' },
  { kind: 'opened', label: 'opened an email of this sequence', visit: true },
  { kind: 'not-opened', label: 'did not open an email of this sequence', visit: true },
  { kind: 'clicked', label: 'clicked in an email of this sequence', visit: true },
  { kind: 'not-clicked', label: 'did not click in an email of this sequence', visit: true },
  { kind: 'attribute', label: 'has an attribute that …' },
  { kind: 'tag', label: 'has a tag' },
  { kind: 'no-tag', label: 'does not have a tag' },
  { kind: 'list', label: 'is on a list' },
  { kind: 'no-list', label: 'is not on a list' },
  { kind: 'segment', label: 'is in a segment', outside: true },
  { kind: 'no-segment', label: 'is not in a segment', outside: true },
  { kind: 'offer', label: 'has an offer that is …' },
  { kind: 'no-offer', label: 'has no offer that is …' },
  { kind: 'points', label: 'has so many points' },
  { kind: 'group', label: 'fits a group of conditions' },
] as const;
export type RowKind = (typeof rowKinds)[number]['kind'];

/** A download is kept as an event of ours: here it is asked for by the file. */
export const asksForFile = (a: Extract<Atom, { kind: 'event' }>): boolean =>
  a.event === FILE_EVENT && a.where.length === 1 && a.where[0]?.field === 'file';

export function rowKindOf(c: Condition): RowKind {
  switch (c.kind) {
    case 'event':
      if (asksForFile(c)) return c.done ? 'downloaded' : 'not-downloaded';
      return c.done ? 'did' : 'did-not';
    case 'email':
      return c.did ? c.what : `not-${c.what}`;
    case 'attribute':
      return 'attribute';
    case 'tag':
      return c.has ? 'tag' : 'no-tag';
    case 'list':
      return c.on ? 'list' : 'no-list';
    case 'segment':
      return c.in ? 'segment' : 'no-segment';
    case 'offer':
      return c.is ? 'offer' : 'no-offer';
    case 'points':
      return 'points';
    default:
      return 'group';
  }
}

export const attributeChoices = (around: Surroundings): FieldChoice[] =>
  around.attributes.map((a) => ({ name: a.key, label: a.label, type: a.type }));

/** A new row of a kind, with as much kept of the old one as still means something. */
export function blankRow(
  kind: RowKind,
  old: Condition | null,
  { scope, doc, around }: { scope: Scope; doc: Sequence | null; around: Surroundings },
): Condition {
  const since =
    old?.kind === 'event' ? old.since : scope === 'visit' ? { kind: 'entry' as const } : { kind: 'ever' as const };
  switch (kind) {
    case 'did':
    case 'did-not':
      return old?.kind === 'event' && !asksForFile(old)
        ? { ...old, done: kind === 'did' }
        : { kind: 'event', event: '', done: kind === 'did', since, where: [] };
    case 'downloaded':
    case 'not-downloaded': {
      const file =
        old?.kind === 'event' && asksForFile(old) ? old.where : [{ field: 'file', op: 'is' as const, value: '' }];
      return { kind: 'event', event: FILE_EVENT, done: kind === 'downloaded', since, where: file };
    }
    case 'opened':
    case 'not-opened':
    case 'clicked':
    case 'not-clicked': {
      const step = old?.kind === 'email' ? old.step : ((doc && emailSteps(doc)[0]?.id) ?? '');
      return {
        kind: 'email',
        step,
        what: kind.endsWith('opened') ? 'opened' : 'clicked',
        did: !kind.startsWith('not-'),
      };
    }
    case 'attribute':
      return { kind: 'attribute', test: blankTest(attributeChoices(around)) };
    case 'tag':
    case 'no-tag':
      return { kind: 'tag', tag: old?.kind === 'tag' ? old.tag : '', has: kind === 'tag' };
    case 'list':
    case 'no-list':
      return { kind: 'list', list: old?.kind === 'list' ? old.list : '', on: kind === 'list' };
    case 'segment':
    case 'no-segment':
      return { kind: 'segment', segment: old?.kind === 'segment' ? old.segment : '', in: kind === 'segment' };
    case 'offer':
    case 'no-offer':
      return {
        ...(old?.kind === 'offer'
          ? old
          : { kind: 'offer', offer: around.offers[0]?.id ?? '', state: 'open', within: { amount: 12, unit: 'hours' } }),
        is: kind === 'offer',
      };
    case 'points':
      return { kind: 'points', op: 'over', value: 0 };
    case 'group':
      return { kind: 'any', of: old && old.kind !== 'all' && old.kind !== 'any' ? [old] : [] };
  }
}

export interface Rows {
  mode: 'all' | 'any';
  rows: Condition[];
}

/** A condition as rows: a single one is a group of one. */
export function rowsOf(condition: Condition | null): Rows {
  if (!condition) return { mode: 'all', rows: [] };
  if (condition.kind === 'all' || condition.kind === 'any') return { mode: condition.kind, rows: condition.of };
  return { mode: 'all', rows: [condition] };
}

/** Rows as a condition; none is no condition. */
export function fromRows({ mode, rows }: Rows): Condition | null {
  if (rows.length === 0) return null;
  return rows.length === 1 ? (rows[0] as Condition) : { kind: mode, of: rows };
}
