import { expect, test } from 'vitest';
import { blockKinds, type Block } from '../src/email/index.ts';
import {
  adoptEvent,
  applyCommands,
  rebase,
  type Command,
  type Edit,
  type Saved,
  type Sequence,
  type Step,
} from '../src/sequence/index.ts';
import { branchStep, emailStep, id, sequence, waitStep } from './support.ts';

// Two at once: what I did on an older plan, over what somebody else saved since. Expected plans are drawn by hand.

const step = (name: string): Step => ({ ...waitStep(1), id: name });
const text = (name: string): Block => ({ ...blockKinds.text.blank(id), id: name });
const letter = (name: string, ...blocks: string[]): Step => {
  const one = emailStep(name);
  return { ...one, id: name, email: { ...one.email, blocks: blocks.map(text) } };
};
const fork = (): Step => {
  const one = branchStep({ kind: 'tag', tag: 'teacher', has: true }, [step('y1'), step('y2')], [step('o1')]);
  if (one.kind !== 'branch') throw new Error('no branch');
  return { ...one, id: 'fork', arms: one.arms.map((a, i) => ({ ...a, id: `arm${i}` })) };
};
const plan = () => sequence([step('a'), letter('mail', 'b1', 'b2', 'b3'), fork(), step('z')]);

let edits = 0;
const edit = (...commands: Command[]): Edit => ({ id: `e${++edits}`, commands, role: 'edit' });
/** What somebody else saved, in its order. */
function saved(doc: Sequence, ...all: Command[][]): { doc: Sequence; since: Saved[] } {
  const since: Saved[] = [];
  let now = doc;
  for (const commands of all) {
    const done = applyCommands(now, commands);
    now = done.doc;
    since.push({
      id: null,
      commands,
      role: 'edit',
      revision: since.length + 1,
      inverses: done.inverses,
      by: 'Tomasz',
      mine: false,
    });
  }
  return { doc: now, since };
}
function over(theirs: Command[][], ...mine: Edit[]) {
  const { doc, since } = saved(plan(), ...theirs);
  return rebase(mine, since, doc);
}
const names = (steps: readonly Step[]): unknown[] =>
  steps.map((s) => ('arms' in s ? [s.id, ...s.arms.map((a) => [a.id, ...names(a.steps)])] : s.id));
const blocksOf = (doc: Sequence, at = 'mail') =>
  doc.steps.flatMap((s) => (s.kind === 'email' && s.id === at ? s.email.blocks.map((b) => b.id) : []));

const insert = (name: string, index: number, arm: string | null = null): Command => ({
  type: 'step.insert',
  place: { arm, index },
  step: step(name),
});
const remove = (name: string): Command => ({ type: 'step.remove', step: name });
const note = (name: string, value: string): Command => ({ type: 'step.set', step: name, field: 'note', value });
const put = (name: string, index: number): Command => ({
  type: 'block.insert',
  step: 'mail',
  index,
  block: text(name),
});

test('what they put in before mine moves mine on; behind it, or in another arm, it does not', () => {
  const mine = () => edit(insert('mine', 2));
  const where = (...theirs: Command[]) =>
    names(over([theirs], mine()).doc.steps).map((n) => (Array.isArray(n) ? (n[0] as unknown) : n));
  expect(where(insert('their', 0))).toEqual(['their', 'a', 'mail', 'mine', 'fork', 'z']);
  // At the very same place theirs stands first.
  expect(where(insert('their', 2))).toEqual(['a', 'mail', 'their', 'mine', 'fork', 'z']);
  expect(where(insert('their', 3))).toEqual(['a', 'mail', 'mine', 'fork', 'their', 'z']);
  expect(where(insert('their', 0, 'arm0'))).toEqual(['a', 'mail', 'mine', 'fork', 'z']);
  expect(where(remove('a'))).toEqual(['mail', 'mine', 'fork', 'z']);
  expect(where(remove('z'))).toEqual(['a', 'mail', 'mine', 'fork']);
  // Two of them, one after the other.
  expect(names(over([[insert('t1', 0)], [insert('t2', 0)]], mine()).doc.steps).slice(0, 5)).toEqual([
    't2',
    't1',
    'a',
    'mail',
    'mine',
  ]);
});

test('a step that they moved takes its place out of one and into the other', () => {
  const move = (name: string, index: number, arm: string | null = null): Command => ({
    type: 'step.move',
    step: name,
    place: { arm, index },
  });
  const tree = (from: Command, mine: Command) => names(over([[from]], edit(mine)).doc.steps);
  const forked = (...first: string[]) => ['fork', ['arm0', ...first], ['arm1', 'o1']];
  // An index counts without what is moved: behind z is the third place.
  expect(tree(move('a', 3), insert('mine', 1))).toEqual(['mine', 'mail', forked('y1', 'y2'), 'z', 'a']);
  expect(tree(move('a', 2), insert('mine', 1))).toEqual(['mine', 'mail', forked('y1', 'y2'), 'a', 'z']);
  expect(tree(move('z', 0, 'arm0'), insert('mine', 1, 'arm0'))).toEqual(['a', 'mail', forked('z', 'y1', 'mine', 'y2')]);
  expect(tree(move('y1', 0), insert('mine', 1, 'arm0'))).toEqual(['y1', 'a', 'mail', forked('mine', 'y2'), 'z']);
});

test('blocks and arms likewise', () => {
  expect(blocksOf(over([[put('their', 0)]], edit(put('mine', 2))).doc)).toEqual(['their', 'b1', 'b2', 'mine', 'b3']);
  expect(blocksOf(over([[{ type: 'block.remove', step: 'mail', block: 'b1' }]], edit(put('mine', 2))).doc)).toEqual([
    'b2',
    'mine',
    'b3',
  ]);
  expect(
    blocksOf(over([[{ type: 'block.move', step: 'mail', block: 'b3', index: 0 }]], edit(put('mine', 1))).doc),
  ).toEqual(['b3', 'b1', 'mine', 'b2']);
  const arm = (name: string) => ({ id: name, condition: { kind: 'tag', tag: name, has: true } as const, steps: [] });
  const arms = over(
    [[{ type: 'arm.insert', step: 'fork', index: 0, arm: arm('their') }]],
    edit({ type: 'arm.insert', step: 'fork', index: 1, arm: arm('mine') }),
  );
  expect((names(arms.doc.steps)[2] as unknown[][]).slice(1).map((a) => a[0])).toEqual([
    'their',
    'arm0',
    'mine',
    'arm1',
  ]);
  // A third arm comes in, and the one before mine goes.
  const gone = over(
    [[{ type: 'arm.insert', step: 'fork', index: 0, arm: arm('their') }], [{ type: 'arm.remove', arm: 'arm0' }]],
    edit({ type: 'arm.insert', step: 'fork', index: 1, arm: arm('mine') }),
  );
  expect((names(gone.doc.steps)[2] as unknown[][]).slice(1).map((a) => a[0])).toEqual(['their', 'mine', 'arm1']);
});

test('two values for one field collide, the same value does not, and other fields are nobody’s business', () => {
  const mine = edit(note('a', 'mine'));
  expect(over([[note('a', 'theirs')]], mine)).toMatchObject({
    applied: [],
    aside: [{ edit: { id: mine.id }, why: 'Tomasz changed the same place.', over: { revision: 1 } }],
  });
  expect(over([[note('a', 'mine')]], edit(note('a', 'mine'))).aside).toEqual([]);
  expect(over([[note('z', 'theirs')]], edit(note('a', 'mine'))).applied).toHaveLength(1);
  // The one that collides is told, of several of theirs.
  expect(
    over([[note('z', 'x')], [note('a', 'theirs')], [note('z', 'y')]], edit(note('a', 'mine'))).aside[0]?.over?.revision,
  ).toBe(2);
  // An edit is one whole: the part that would fit stays out with the part that does not.
  const both = over([[note('a', 'theirs')]], edit(note('z', 'mine'), note('a', 'mine')));
  expect([both.applied, both.doc.steps.find((s) => s.id === 'z')?.note]).toEqual([[], '']);
});

test('taken away by both it is gone once; what they took away cannot be worked in, and what they worked in is not taken away', () => {
  const twice = edit(remove('a'));
  expect(over([[remove('a')]], twice)).toMatchObject({ applied: [], aside: [], moot: [twice.id] });
  // With it goes what stands in it.
  const inside = edit(remove('y1'));
  expect(over([[remove('fork')]], inside).moot).toEqual([inside.id]);
  const orphan = edit(note('y1', 'mine'));
  expect(over([[remove('fork')]], orphan)).toMatchObject({
    aside: [{ why: 'Tomasz took its place away.', over: { revision: 1 } }],
  });
  expect(over([[note('a', 'x')], [remove('mail')], [note('z', 'x')]], edit(put('mine', 0)))).toMatchObject({
    aside: [{ why: 'Tomasz took its place away.', over: { revision: 2 } }],
  });
  expect(over([[note('y1', 'theirs')]], edit(remove('fork'))).aside).toHaveLength(1);
  expect(over([[put('their', 0)]], edit(remove('mail'))).aside).toHaveLength(1);
  // Removed and brought back, it can be taken away.
  expect(over([[remove('a')], [insert('a', 0)]], edit(remove('a'))).moot).toEqual([]);
});

test('what was wrong from the start is told with its field, and is nobody’s fault', () => {
  expect(over([[note('z', 'x')]], edit({ type: 'step.set', step: 'a', field: 'amount', value: -3 }))).toMatchObject({
    applied: [],
    aside: [{ over: null }],
  });
});

test('what comes in can be taken back, and the plan is theirs again', () => {
  const { doc, since } = saved(plan(), [insert('their', 0)]);
  const done = rebase([edit(insert('mine', 2), note('a', 'mine')), edit(put('b4', 3))], since, doc);
  const back = done.applied.toReversed().reduce((now, e) => applyCommands(now, e.inverses).doc, done.doc);
  expect(back).toEqual(doc);
});

test('an event that is chosen fills the lists that show nothing yet, and leaves alone what was chosen', () => {
  const repeat = (list: string, shown = false): Block => {
    const block = { ...blockKinds.repeat.blank(id), list };
    return shown ? { ...block, title: { on: true, field: 'name' } } : block;
  };
  const doc = (...blocks: Block[]) => {
    const one = emailStep('Cart');
    return sequence([{ ...one, email: { ...one.email, blocks } }]);
  };
  const kind = {
    name: 'order.begun',
    sample: { items: [{ name: 'Kit', price: 3 }], words: ['a', 'b'], none: [], total: 3 },
    mapping: {},
  };
  const lists = (commands: Command[]) =>
    commands.flatMap((c) => (c.type === 'block.set' && c.field === 'list' ? [c.value] : []));
  // The only list of things; words and an empty list are none.
  expect(lists(adoptEvent(doc(repeat('')), kind))).toEqual(['event.items']);
  expect(lists(adoptEvent(doc(repeat('event.gone')), kind))).toEqual(['event.items']);
  expect(lists(adoptEvent(doc(repeat('event.items', true)), kind))).toEqual([]);
  expect(lists(adoptEvent(doc(repeat('recent.order.begun')), kind))).toEqual(['recent.order.begun']);
  expect(lists(adoptEvent(doc(repeat('recent.other')), kind))).toEqual([]);
  // Of two nobody chooses for them; one that is named is taken.
  const two = { ...kind, sample: { ...kind.sample, seen: [{ name: 'Bone folder' }] } };
  expect(lists(adoptEvent(doc(repeat('')), two))).toEqual([]);
  expect(lists(adoptEvent(doc(repeat('event.seen')), two))).toEqual(['event.seen']);
  // An event without a list is shown itself.
  expect(lists(adoptEvent(doc(repeat('')), { ...kind, sample: { total: 3 } }))).toEqual(['recent.order.begun']);
});
