import type { z } from 'zod';
import { blockList, findBlock, insideOf, mayStand, walkBlocks, type Block } from '../../email/index.ts';
import type { BranchStep, Sequence, SplitStep, Step } from '../schema.ts';
import { armsOf, findStep, withInner } from '../tree.ts';

/** A command that does not fit the draft: the step or block is gone, or the value is not allowed there. */
export class CommandError extends Error {
  readonly field: string;
  constructor(field: string, message: string) {
    super(message);
    this.field = field;
  }
}

export function listOf(doc: Sequence, arm: string | null): Step[] {
  if (arm === null) return doc.steps;
  const found = arms(doc).find((a) => a.id === arm);
  if (!found) throw new CommandError('arm', 'That arm is no longer in the sequence.');
  return found.steps;
}

export const arms = (doc: Sequence) => doc.steps.flatMap(withInner).flatMap(armsOf);

export function mustFind(doc: Sequence, id: string) {
  const found = findStep(doc, id);
  if (!found) throw new CommandError('step', 'That step is no longer in the sequence.');
  return found;
}

/** The step that arms can be put into and taken out of: a wait for something always has its two. */
export function forkOf(doc: Sequence, id: string): BranchStep | SplitStep {
  const { step } = mustFind(doc, id);
  if (step.kind !== 'branch' && step.kind !== 'split')
    throw new CommandError('step', 'That step is neither a branch nor a split.');
  return step;
}

export function mustFindArm(doc: Sequence, id: string): { fork: BranchStep | SplitStep; index: number } {
  for (const step of doc.steps.flatMap(withInner)) {
    const index = armsOf(step).findIndex((a) => a.id === id);
    if (index >= 0) return { fork: forkOf(doc, step.id), index };
  }
  throw new CommandError('arm', 'That arm is no longer in the sequence.');
}

/** Index that the last arm of a fork keeps: "otherwise" stays last, what came after it would never be asked. */
export const lastIndex = (fork: BranchStep | SplitStep) =>
  fork.kind === 'branch' ? fork.arms.length - 1 : fork.arms.length;
export const isOtherwise = (fork: BranchStep | SplitStep, index: number) =>
  fork.kind === 'branch' && fork.arms[index]?.condition === null;

export function emailOf(doc: Sequence, id: string) {
  const { step } = mustFind(doc, id);
  if (step.kind !== 'email') throw new CommandError('step', 'That step is not an email.');
  return step.email;
}

export function mustFindBlock(blocks: Block[], id: string) {
  const found = findBlock(blocks, id);
  if (!found) throw new CommandError('block', 'That block is no longer in the email.');
  return found;
}

/** The list that a block can be put into. */
export function mustFindList(blocks: Block[], into: string | null | undefined, block: Block): Block[] {
  const list = blockList(blocks, into ?? null);
  if (!list) throw new CommandError('into', 'That section or column is no longer in the email.');
  if (!mayStand(block.kind, list.inside))
    throw new CommandError('into', `A ${block.kind} block cannot stand in a ${list.inside}.`);
  return list.blocks;
}

export const clamp = (index: number, length: number) => Math.min(index, length);

/** Sets one field of an object, checked against the schema of the whole. One that is optional is taken away by null. */
export function setField<T extends object>(
  target: T,
  field: string,
  value: unknown,
  schema: z.ZodType,
  optional: ReadonlySet<string> = new Set(),
): unknown {
  if (field === 'id' || field === 'kind' || !(Object.hasOwn(target, field) || optional.has(field)))
    throw new CommandError(field, `“${field}” is nothing that can be set here.`);
  const old = (target as Record<string, unknown>)[field];
  if (optional.has(field) && (value === null || value === undefined)) {
    delete (target as Record<string, unknown>)[field];
    return old;
  }
  const parsed = schema.safeParse({ ...target, [field]: value });
  if (!parsed.success)
    throw new CommandError(field, parsed.error.issues[0]?.message ?? 'That value is not allowed here.');
  (target as Record<string, unknown>)[field] = (parsed.data as Record<string, unknown>)[field];
  return old;
}

/** A copy of plain data that shares nothing with it. */
export const structuredCloneJson = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

// Names of what stands in a document, for telling what an edit writes, works in, and takes away.
export const stepKey = (id: string): string => `step/${id}`;
export const armKey = (id: string): string => `arm/${id}`;
export const blockKey = (step: string, block: string): string => `block/${step}/${block}`;

/** Everything inside of a block and itself: blocks, and the lists that they stand in. */
export const keysOfBlock = (step: string, block: Block): string[] =>
  walkBlocks([block]).flatMap(({ block: b }) =>
    [b.id, ...insideOf(b).map((l) => l.id)].map((id) => blockKey(step, id)),
  );

/** Everything inside of a step and itself. */
export const keysOfStep = (step: Step): string[] =>
  withInner(step).flatMap((s) => [
    stepKey(s.id),
    ...armsOf(s).map((a) => armKey(a.id)),
    ...(s.kind === 'email' ? s.email.blocks.flatMap((b) => keysOfBlock(s.id, b)) : []),
  ]);
