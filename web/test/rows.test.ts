import { describe, expect, test } from 'vitest';
import type { Surroundings } from '@ascenso/contracts';
import { blankEmail, blankSequence, evaluate, type Condition, type Facts } from '@ascenso/core';
import { blankRow, fromRows, rowKindOf, rowKinds, rowsOf } from '../src/conditions/kinds.ts';
import type { Scope } from '../src/conditions/rows/index.ts';

const around = {
  attributes: [{ key: 'skill', label: 'Skill', type: 'text' }],
  offers: [{ id: 'kit', name: 'Kit offer' }],
} as unknown as Surroundings;
const doc = { ...blankSequence('Welcome', 'letters'), steps: [blankEmail(() => 'guide', 'Guide')] };
const blank = (kind: string, old: Condition | null, scope: Scope = 'visit') =>
  blankRow(kind, old, { scope, doc, around });
const kinds = rowKinds.map((r) => r.kind);

describe('a row of a condition', () => {
  test.each(kinds)('%s stays chosen, whatever the row said before', (kind) => {
    for (const before of [null, ...kinds]) {
      const old = before === null ? null : blank(before, null);
      expect([before, rowKindOf(blank(kind, old))]).toEqual([before, kind]);
    }
  });

  test('turned into its opposite it keeps what it is about', () => {
    const pairs = [
      [{ kind: 'tag', tag: 'teacher', has: true }, 'no-tag', { tag: 'teacher', has: false }],
      [{ kind: 'list', list: 'letters', on: true }, 'no-list', { list: 'letters', on: false }],
      [{ kind: 'segment', segment: 'quiet', in: true }, 'no-segment', { segment: 'quiet', in: false }],
      [{ kind: 'email', step: 'guide', what: 'opened', did: true }, 'not-clicked', { step: 'guide', did: false }],
    ] as const;
    for (const [old, kind, kept] of pairs) expect(blank(kind, old)).toMatchObject(kept);
    const ordered = { ...blank('did', null), event: 'order.paid' } as Condition;
    expect(blank('did-not', ordered)).toEqual({ ...ordered, done: false });
    // A downloaded file is not an event that somebody chose: going over to events begins anew.
    expect(blank('did', blank('downloaded', null))).toMatchObject({ event: '', where: [] });
  });

  test('an event is asked for since entry where there is one, else ever', () => {
    expect(blank('did', null, 'visit')).toMatchObject({ since: { kind: 'entry' } });
    expect(blank('did', null, 'segment')).toMatchObject({ since: { kind: 'ever' } });
  });

  test('gathered into a group it is still in it', () => {
    const tag = { kind: 'tag', tag: 'teacher', has: true } as const;
    expect(blank('group', tag)).toEqual({ kind: 'any', of: [tag] });
  });
});

describe('rows and conditions', () => {
  const tag = (name: string): Condition => ({ kind: 'tag', tag: name, has: true });
  const facts = (tags: string[]) =>
    ({ person: { tags, attributes: {}, points: 0, lists: {} }, events: [], emails: {} }) as unknown as Facts;
  const holds = (c: Condition | null, tags: string[]) =>
    c === null || evaluate(c, { facts: facts(tags), now: 0, enteredAt: 0, stepTimes: {} });
  const some: (Condition | null)[] = [
    null,
    tag('a'),
    { kind: 'all', of: [tag('a'), tag('b')] },
    { kind: 'any', of: [tag('a'), tag('b')] },
    { kind: 'any', of: [tag('a'), { kind: 'all', of: [tag('b'), tag('c')] }] },
    { kind: 'all', of: [tag('c'), { kind: 'any', of: [tag('a'), tag('b')] }] },
    { kind: 'any', of: [{ kind: 'all', of: [tag('a'), tag('b')] }] },
  ];

  test('a condition read into rows and written back means the same for everybody', () => {
    const everybody = Array.from({ length: 8 }, (_, n) => ['a', 'b', 'c'].filter((_t, i) => (n >> i) & 1));
    for (const c of some)
      for (const tags of everybody)
        expect([c, tags, holds(fromRows(rowsOf(c)), tags)]).toEqual([c, tags, holds(c, tags)]);
  });

  test('the last row taken out leaves no condition', () => {
    expect(fromRows({ mode: 'any', rows: [] })).toBeNull();
    expect(fromRows({ mode: 'any', rows: [tag('a')] })).toEqual(tag('a'));
  });
});
