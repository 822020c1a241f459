import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { plainNames } from '../src/audience/index.ts';
import { paragraphs, type Block } from '../src/email/index.ts';
import {
  advance,
  applyCommands,
  blankStep,
  carryOver,
  changes,
  difference,
  enter,
  findStep,
  prepare,
  walk,
  type Command,
  type Sequence,
  type Step,
} from '../src/sequence/index.ts';
import { DAY, emailStep, facts, id, NOON, sequence, waitStep } from './support.ts';

const kinds = ['email', 'wait', 'branch', 'split', 'until', 'action', 'leave'] as const;
const arms = (doc: Sequence) =>
  walk(doc).flatMap(({ step }) => ('arms' in step ? step.arms.map((a) => ({ fork: step, id: a.id })) : []));

/** Random edits, as an author makes them: those that do not fit are left out. */
function edited(doc: Sequence, picks: readonly number[]): Sequence {
  let now = doc;
  const take = (n: number, of: number) => (of === 0 ? 0 : n % of);
  for (let i = 0; i + 3 < picks.length; i += 4) {
    const [what, a, b, c] = picks.slice(i, i + 4) as [number, number, number, number];
    const steps = walk(now).map((v) => v.step);
    const lists = [null, ...arms(now).map((x) => x.id)];
    const step = steps[take(a, steps.length)];
    const place = { arm: lists[take(b, lists.length)] ?? null, index: c % 6 };
    const arm = arms(now)[take(a, arms(now).length)];
    const options: (Command | null)[] = [
      { type: 'step.insert', place, step: blankStep(kinds[c % kinds.length] ?? 'email', id) },
      step ? { type: 'step.remove', step: step.id } : null,
      step ? { type: 'step.move', step: step.id, place } : null,
      step ? { type: 'step.set', step: step.id, field: 'on', value: !step.on } : null,
      step?.kind === 'wait' ? { type: 'step.set', step: step.id, field: 'amount', value: c % 50 } : null,
      step?.kind === 'email' ? { type: 'email.set', step: step.id, field: 'subject', value: `Subject ${c}` } : null,
      step?.kind === 'email'
        ? {
            type: 'block.insert',
            step: step.id,
            index: c % 4,
            block: { kind: 'text', id: id(), doc: paragraphs(`Text ${b}`) },
          }
        : null,
      step?.kind === 'email'
        ? {
            type: 'block.move',
            step: step.id,
            block: (step.email.blocks[take(b, step.email.blocks.length)] as Block).id,
            index: c % 4,
          }
        : null,
      step?.kind === 'email'
        ? {
            type: 'block.remove',
            step: step.id,
            block: (step.email.blocks[take(b, step.email.blocks.length)] as Block).id,
          }
        : null,
      step?.kind === 'branch'
        ? {
            type: 'arm.insert',
            step: step.id,
            index: c % 3,
            arm: { id: id(), condition: { kind: 'tag', tag: `t${c}`, has: true }, steps: [] },
          }
        : null,
      step?.kind === 'split'
        ? { type: 'arm.insert', step: step.id, index: c % 3, arm: { id: id(), weight: 1 + (c % 9), steps: [] } }
        : null,
      arm ? { type: 'arm.remove', arm: arm.id } : null,
      arm ? { type: 'arm.move', arm: arm.id, index: c % 3 } : null,
      { type: 'set', field: 'name', value: `Name ${c}` },
      { type: 'set', field: 'goal', value: c % 2 ? null : { kind: 'tag', tag: `g${c}`, has: true } },
    ];
    const command = options[what % options.length];
    try {
      if (command) now = applyCommands(now, [command]).doc;
    } catch {
      // An edit that does not fit, such as a branch into its own arm.
    }
  }
  return now;
}

const start = sequence([
  emailStep('A'),
  waitStep(1),
  blankStep('branch', id),
  emailStep('B'),
  blankStep('split', id),
  waitStep(2),
  emailStep('C'),
]);
const random = fc.array(fc.nat(1000), { maxLength: 60 });

describe('the difference of two versions', () => {
  test('applied to the old version gives the new one, whatever was edited', () => {
    fc.assert(
      fc.property(random, random, (first, second) => {
        const before = edited(start, first);
        const after = edited(before, second);
        expect(applyCommands(before, difference(before, after)).doc).toEqual(applyCommands(after, []).doc);
      }),
      { numRuns: 400 },
    );
  });

  test('of a version with itself is nothing', () => {
    expect(difference(start, JSON.parse(JSON.stringify(start)) as Sequence)).toEqual([]);
    expect(changes(start, start, { before: plainNames, after: plainNames })).toEqual([]);
  });

  test('has words for everything that can change, and speaks of each step once', () => {
    fc.assert(
      fc.property(random, random, (first, second) => {
        const before = edited(start, first);
        const after = edited(before, second);
        const told = changes(before, after, { before: plainNames, after: plainNames });
        expect(new Set(told.map((c) => c.step)).size).toBe(told.length);
        for (const c of told) {
          expect(c.title).not.toBe('');
          for (const w of c.words) expect(w).toMatch(/^[A-Z“].*\.$/s);
          expect(c.words.join(' ')).not.toMatch(/undefined|\[object/);
        }
        // Every step that was added or removed is named.
        const has = (doc: Sequence, s: string) => findStep(doc, s) !== undefined;
        for (const { step } of walk(after))
          if (!has(before, step.id)) expect(told.find((c) => c.step === step.id)?.kind).toBe('added');
      }),
      { numRuns: 200 },
    );
  });

  test('reads as a marketer would say it', () => {
    const [a, w] = [emailStep('Guide delivery'), waitStep(1)];
    a.email.subject = 'Attached: your guide';
    const before = sequence([a, w, emailStep('Three papers')]);
    const after = applyCommands(before, [
      { type: 'email.set', step: a.id, field: 'subject', value: 'Here: your guide' },
      { type: 'step.set', step: w.id, field: 'amount', value: 3 },
      { type: 'step.remove', step: before.steps[2]?.id ?? '' },
    ]).doc;
    expect(
      changes(before, after, { before: plainNames, after: plainNames }).map((c) => [c.kind, c.title, ...c.words]),
    ).toEqual([
      ['changed', 'Guide delivery', 'Subject: “Attached: your guide” became “Here: your guide”.'],
      ['changed', '3 days later', 'Wait: 1 day became 3 days.'],
      ['removed', 'Three papers'],
    ]);
  });
});

describe('taking people inside over to another version', () => {
  const [a, w, b, c] = [emailStep('A'), waitStep(5), emailStep('B'), emailStep('C')];
  const before = sequence([a, w, b, c]);
  const inside = () => {
    const run = prepare(before);
    return advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
  };
  const over = (after: Sequence, now = NOON + DAY) => carryOver(inside(), before, after, 2, 'Europe/Lisbon', now).visit;
  const goOn = (visit: ReturnType<typeof over>, after: Sequence) => {
    const run = prepare(after);
    const sent: string[] = [];
    for (let v = visit, i = 0; v.status === 'active' && i < 50; i++) {
      const done = advance(v, run, facts(), v.dueAt);
      for (const e of done.effects) if (e.kind === 'send') sent.push(e.step);
      v = done.visit;
    }
    return sent;
  };

  test('a shortened wait is reckoned from when they arrived, but never before the publishing', () => {
    const shorter = (amount: number) => sequence([a, { ...w, amount }, b, c]);
    expect(over(shorter(3)).dueAt).toBe(NOON + 3 * DAY);
    expect(over(shorter(0)).dueAt).toBe(NOON + DAY);
    expect(over(before).dueAt).toBe(NOON + 5 * DAY);
  });

  test('a step taken away leads to the next that is still there; nothing left is the end', () => {
    expect(over(sequence([a, b, c]))).toMatchObject({ step: b.id, dueAt: NOON + DAY, version: 2 });
    expect(over(sequence([a, c]))).toMatchObject({ step: c.id });
    expect(over(sequence([a]))).toMatchObject({ step: null, status: 'done' });
  });

  test('out of an arm that is gone, to what follows the branch', () => {
    const inner = waitStep(2);
    const fork = { ...blankStep('branch', id) } as Step & { kind: 'branch' };
    const withArm = { ...fork, arms: fork.arms.map((x, i) => ({ ...x, steps: i === 1 ? [inner] : [] })) } as Step;
    const old = sequence([withArm, c]);
    const run = prepare(old);
    const visit = advance(enter('v', 'q', 1, run, NOON, {}), run, facts(), NOON).visit;
    expect(visit.step).toBe(inner.id);
    expect(carryOver(visit, old, sequence([c]), 2, 'UTC', NOON + 1).visit.step).toBe(c.id);
  });

  test('what is put in behind a person is not sent; what they had and is moved ahead is not sent again', () => {
    const behind = emailStep('Behind');
    expect(goOn(over(sequence([a, behind, w, b, c])), sequence([a, behind, w, b, c]))).toEqual([b.id, c.id]);
    expect(goOn(over(sequence([w, b, a, c])), sequence([w, b, a, c]))).toEqual([b.id, c.id]);
  });

  test('never sends a step twice in one visit, whatever was edited and whenever it was published', () => {
    fc.assert(
      fc.property(random, fc.array(fc.tuple(random, fc.nat(20)), { maxLength: 4 }), (first, versions) => {
        let doc = edited(start, first);
        let visit = enter('v', 'q', 1, prepare(doc), NOON, {});
        const sent: string[] = [];
        for (const [edits, days] of [...versions, [[], 4000] as [number[], number]]) {
          const until = visit.arrivedAt + days * DAY;
          const run = prepare(doc);
          for (let i = 0; visit.status === 'active' && visit.dueAt <= until && i < 300; i++) {
            const done = advance(visit, run, facts(), visit.dueAt);
            for (const e of done.effects) if (e.kind === 'send') sent.push(e.step);
            visit = done.visit;
          }
          if (visit.status !== 'active') break;
          const next = edited(doc, edits);
          visit = carryOver(visit, doc, next, 2, 'Europe/Lisbon', Math.max(until, visit.arrivedAt)).visit;
          doc = next;
        }
        expect(new Set(sent).size).toBe(sent.length);
      }),
      { numRuns: 300 },
    );
  });
});
