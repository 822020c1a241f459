import { z } from 'zod';
import { conditionSchema, type Condition } from '../audience/index.ts';
import {
  blockList,
  blockSchema,
  emailFields,
  emailSchema,
  findBlock,
  mayStand,
  optionalFields,
  optionalOfEmail,
  walkBlocks,
  type Block,
} from '../email/index.ts';
import {
  MAX_ARMS,
  sequenceSchema,
  settingNames,
  stepSchema,
  weightSchema,
  type Arm,
  type BranchStep,
  type Sequence,
  type SplitArm,
  type SplitStep,
  type Step,
} from './schema.ts';
import { armsOf, findStep, withInner } from './tree.ts';

const newArm = { id: z.string().min(1), steps: z.array(stepSchema).max(200) };
const newArmSchema = z.union([
  z.strictObject({ ...newArm, condition: conditionSchema }),
  z.strictObject({ ...newArm, weight: weightSchema }),
]);
/** A place among the blocks of an email: in its own list, or where `into` names it, in that of a section or a column. */
const intoSchema = { index: z.int().min(0), into: z.string().nullish() };
const placeSchema = z.object({ arm: z.string().nullable(), index: z.int().min(0) });

/** An edit of a draft: small, invertible, plain data. Undo, history and conflicts all come from these. */
export const commandSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('set'),
    field: z.enum(settingNames),
    value: z.unknown(),
  }),
  z.object({ type: z.literal('step.insert'), place: placeSchema, step: stepSchema }),
  z.object({ type: z.literal('step.remove'), step: z.string() }),
  z.object({ type: z.literal('step.move'), step: z.string(), place: placeSchema }),
  z.object({ type: z.literal('step.set'), step: z.string(), field: z.string(), value: z.unknown() }),
  z.object({ type: z.literal('arm.insert'), step: z.string(), index: z.int().min(0), arm: newArmSchema }),
  z.object({ type: z.literal('arm.remove'), arm: z.string() }),
  z.object({ type: z.literal('arm.move'), arm: z.string(), index: z.int().min(0) }),
  z.object({ type: z.literal('arm.weigh'), arm: z.string(), weight: weightSchema }),
  z.object({ type: z.literal('arm.set'), arm: z.string(), condition: z.unknown() }),
  z.object({
    type: z.literal('email.set'),
    step: z.string(),
    field: z.enum(emailFields),
    /** Null takes an optional one away. */
    value: z.unknown(),
  }),
  z.object({ type: z.literal('block.insert'), step: z.string(), ...intoSchema, block: blockSchema }),
  z.object({ type: z.literal('block.remove'), step: z.string(), block: z.string() }),
  z.object({ type: z.literal('block.move'), step: z.string(), block: z.string(), ...intoSchema }),
  z.object({
    type: z.literal('block.set'),
    step: z.string(),
    block: z.string(),
    field: z.string(),
    value: z.unknown(),
  }),
]);
export type Command = z.infer<typeof commandSchema>;

/** A command that does not fit the draft: the step or block is gone, or the value is not allowed there. */
export class CommandError extends Error {
  readonly field: string;
  constructor(field: string, message: string) {
    super(message);
    this.field = field;
  }
}

export interface Applied {
  doc: Sequence;
  /** Takes the change back. */
  inverse: Command;
}

function listOf(doc: Sequence, arm: string | null): Step[] {
  if (arm === null) return doc.steps;
  const found = arms(doc).find((a) => a.id === arm);
  if (!found) throw new CommandError('arm', 'That arm is no longer in the sequence.');
  return found.steps;
}

const arms = (doc: Sequence) => doc.steps.flatMap(withInner).flatMap(armsOf);

function mustFind(doc: Sequence, id: string) {
  const found = findStep(doc, id);
  if (!found) throw new CommandError('step', 'That step is no longer in the sequence.');
  return found;
}

/** The step that arms can be put into and taken out of: a wait for something always has its two. */
function forkOf(doc: Sequence, id: string): BranchStep | SplitStep {
  const { step } = mustFind(doc, id);
  if (step.kind !== 'branch' && step.kind !== 'split')
    throw new CommandError('step', 'That step is neither a branch nor a split.');
  return step;
}

function mustFindArm(doc: Sequence, id: string): { fork: BranchStep | SplitStep; index: number } {
  for (const step of doc.steps.flatMap(withInner)) {
    const index = armsOf(step).findIndex((a) => a.id === id);
    if (index >= 0) return { fork: forkOf(doc, step.id), index };
  }
  throw new CommandError('arm', 'That arm is no longer in the sequence.');
}

/** Index that the last arm of a fork keeps: "otherwise" stays last, what came after it would never be asked. */
const lastIndex = (fork: BranchStep | SplitStep) => (fork.kind === 'branch' ? fork.arms.length - 1 : fork.arms.length);
const isOtherwise = (fork: BranchStep | SplitStep, index: number) =>
  fork.kind === 'branch' && fork.arms[index]?.condition === null;

function emailOf(doc: Sequence, id: string) {
  const { step } = mustFind(doc, id);
  if (step.kind !== 'email') throw new CommandError('step', 'That step is not an email.');
  return step.email;
}

function mustFindBlock(blocks: Block[], id: string) {
  const found = findBlock(blocks, id);
  if (!found) throw new CommandError('block', 'That block is no longer in the email.');
  return found;
}

/** The list that a block can be put into. */
function mustFindList(blocks: Block[], into: string | null | undefined, block: Block): Block[] {
  const list = blockList(blocks, into ?? null);
  if (!list) throw new CommandError('into', 'That section or column is no longer in the email.');
  if (!mayStand(block.kind, list.inside))
    throw new CommandError('into', `A ${block.kind} block cannot stand in a ${list.inside}.`);
  return list.blocks;
}

const clamp = (index: number, length: number) => Math.min(index, length);

/** Sets one field of an object, checked against the schema of the whole. One that is optional is taken away by null. */
function setField<T extends object>(
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

/** Applies to a document of its own and answers the inverse. */
function change(doc: Sequence, c: Command): Command {
  switch (c.type) {
    case 'set':
      return { ...c, value: setField(doc, c.field, c.value, sequenceSchema) };
    case 'step.insert': {
      const known = new Set(doc.steps.flatMap(withInner).map((s) => s.id));
      if (withInner(c.step).some((s) => known.has(s.id)))
        throw new CommandError('step', 'That step is already in the sequence.');
      const list = listOf(doc, c.place.arm);
      list.splice(clamp(c.place.index, list.length), 0, structuredCloneJson(c.step));
      return { type: 'step.remove', step: c.step.id };
    }
    case 'step.remove': {
      const { step, place } = mustFind(doc, c.step);
      listOf(doc, place.arm).splice(place.index, 1);
      return { type: 'step.insert', place, step };
    }
    case 'step.move': {
      const { step, place } = mustFind(doc, c.step);
      if (c.place.arm !== null && withInner(step).some((s) => armsOf(s).some((a) => a.id === c.place.arm)))
        throw new CommandError('place', 'A branch cannot be moved into its own arm.');
      const target = listOf(doc, c.place.arm);
      listOf(doc, place.arm).splice(place.index, 1);
      target.splice(clamp(c.place.index, target.length), 0, step);
      return { type: 'step.move', step: step.id, place };
    }
    case 'step.set':
      return { ...c, value: setField(mustFind(doc, c.step).step, c.field, c.value, stepSchema) };
    case 'arm.insert': {
      const fork = forkOf(doc, c.step);
      if (arms(doc).some((a) => a.id === c.arm.id))
        throw new CommandError('arm', 'That arm is already in the sequence.');
      if (fork.arms.length >= MAX_ARMS)
        throw new CommandError('arm', `There are ${MAX_ARMS} arms at most: ask the rest in another step.`);
      if ('condition' in c.arm !== (fork.kind === 'branch'))
        throw new CommandError('arm', 'An arm of a branch has a condition, an arm of a split a share.');
      (fork.arms as unknown[]).splice(Math.min(c.index, lastIndex(fork)), 0, structuredCloneJson(c.arm));
      return { type: 'arm.remove', arm: c.arm.id };
    }
    case 'arm.remove': {
      const { fork, index } = mustFindArm(doc, c.arm);
      if (fork.arms.length <= 2 || isOtherwise(fork, index))
        throw new CommandError('arm', 'Two arms have to stay, and “otherwise”. Delete the whole step instead.');
      const [arm] = fork.arms.splice(index, 1);
      return { type: 'arm.insert', step: fork.id, index, arm: arm as (Arm & { condition: Condition }) | SplitArm };
    }
    case 'arm.move': {
      const { fork, index } = mustFindArm(doc, c.arm);
      if (isOtherwise(fork, index)) throw new CommandError('arm', '“Otherwise” stays last.');
      const [arm] = fork.arms.splice(index, 1);
      (fork.arms as unknown[]).splice(Math.min(c.index, lastIndex(fork)), 0, arm);
      return { ...c, index };
    }
    case 'arm.weigh': {
      const { fork, index } = mustFindArm(doc, c.arm);
      const arm = fork.arms[index];
      if (!arm || !('weight' in arm)) throw new CommandError('arm', 'Only an arm of a split has a share.');
      const { weight } = arm;
      arm.weight = c.weight;
      return { ...c, weight };
    }
    case 'arm.set': {
      const { fork, index } = mustFindArm(doc, c.arm);
      const arm = fork.arms[index];
      if (!arm || !('condition' in arm)) throw new CommandError('arm', 'Only an arm of a branch has a condition.');
      const old = arm.condition;
      setField(arm, 'condition', c.condition, armSchema);
      return { ...c, condition: old };
    }
    case 'email.set': {
      const old = setField(emailOf(doc, c.step), c.field, c.value, emailSchema, optionalOfEmail);
      return { ...c, value: old ?? null };
    }
    case 'block.insert': {
      const { blocks } = emailOf(doc, c.step);
      const known = new Set(walkBlocks(blocks).map((p) => p.block.id));
      if (walkBlocks([c.block]).some((p) => known.has(p.block.id)))
        throw new CommandError('block', 'That block is already in the email.');
      const list = mustFindList(blocks, c.into, c.block);
      list.splice(clamp(c.index, list.length), 0, structuredCloneJson(c.block));
      return { type: 'block.remove', step: c.step, block: c.block.id };
    }
    case 'block.remove': {
      const { siblings, index, list, block } = mustFindBlock(emailOf(doc, c.step).blocks, c.block);
      siblings.splice(index, 1);
      return { type: 'block.insert', step: c.step, index, ...(list === null ? {} : { into: list }), block };
    }
    case 'block.move': {
      const { blocks } = emailOf(doc, c.step);
      const { siblings, index, list, block } = mustFindBlock(blocks, c.block);
      if (c.into && blockList([block], c.into)) throw new CommandError('into', 'A block cannot be moved into itself.');
      const target = mustFindList(blocks, c.into, block);
      siblings.splice(index, 1);
      target.splice(clamp(c.index, target.length), 0, block);
      return { type: 'block.move', step: c.step, block: c.block, index, ...(list === null ? {} : { into: list }) };
    }
    case 'block.set': {
      const { block } = mustFindBlock(emailOf(doc, c.step).blocks, c.block);
      const old = setField(block, c.field, c.value, blockSchema, optionalFields);
      return { ...c, value: old ?? null };
    }
  }
}

const armSchema = z.object({ id: z.string(), condition: conditionSchema.nullable(), steps: z.unknown() });

/** A copy of plain data that shares nothing with it. */
export const structuredCloneJson = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** A draft saved before a field existed gets what it then meant. */
export function completed(doc: Sequence): Sequence {
  doc.filter ??= null;
  for (const step of doc.steps.flatMap(withInner)) {
    if (step.kind === 'email') {
      step.forWhom ??= null;
      step.thenPoints ??= 0;
    }
    if (step.kind === 'wait') step.at ??= null;
  }
  return doc;
}

/** Applies a command to a document, which stays as it was. Throws CommandError when it does not fit. */
export function applyCommand(doc: Sequence, command: Command): Applied {
  const copy = completed(structuredCloneJson(doc));
  const inverse = structuredCloneJson(change(copy, command));
  return { doc: copy, inverse };
}

/** Applies several in order. The inverses are in the order in which they take the changes back. */
export function applyCommands(doc: Sequence, commands: readonly Command[]): { doc: Sequence; inverses: Command[] } {
  const copy = completed(structuredCloneJson(doc));
  const inverses = commands.map((c) => structuredCloneJson(change(copy, structuredCloneJson(c)))).reverse();
  return { doc: copy, inverses };
}

/**
 * What a command touches: two edits made at once conflict when they share a target. A text block is one unit; a move
 * or a removal of a step conflicts with any other edit of that step.
 */
export function targetOf(command: Command): { unit: string; part: string } {
  switch (command.type) {
    case 'set':
      return { unit: `sequence.${command.field}`, part: '*' };
    case 'step.insert':
      return { unit: `step.${command.step.id}`, part: '*' };
    case 'step.remove':
    case 'step.move':
      return { unit: `step.${command.step}`, part: '*' };
    case 'step.set':
      return { unit: `step.${command.step}`, part: command.field };
    case 'arm.insert':
      return { unit: `arm.${command.arm.id}`, part: '*' };
    case 'arm.remove':
    case 'arm.move':
    case 'arm.weigh':
    case 'arm.set':
      return { unit: `arm.${command.arm}`, part: '*' };
    case 'email.set':
      return { unit: `step.${command.step}`, part: `email.${command.field}` };
    case 'block.insert':
      return { unit: `step.${command.step}`, part: `block.${command.block.id}` };
    case 'block.remove':
    case 'block.move':
    case 'block.set':
      return { unit: `step.${command.step}`, part: `block.${command.block}` };
  }
}

export function conflicts(a: Command, b: Command): boolean {
  const x = targetOf(a);
  const y = targetOf(b);
  return x.unit === y.unit && (x.part === y.part || x.part === '*' || y.part === '*');
}

/** One saved edit, as the log keeps it. */
export interface LogEntry {
  revision: number;
  inverses: Command[];
  commands: Command[];
  /** Set on a save that takes back, or brings back, another. */
  role: 'edit' | 'undo' | 'redo';
}

/** What can be undone and redone after these saves: each a list of commands to send, the next one last. */
export function undoStacks(log: readonly LogEntry[]): { undo: Command[][]; redo: Command[][] } {
  const undo: Command[][] = [];
  let redo: Command[][] = [];
  for (const entry of log) {
    if (entry.role === 'undo') {
      undo.pop();
      redo.push(entry.inverses);
    } else {
      if (entry.role === 'redo') redo.pop();
      else redo = [];
      undo.push(entry.inverses);
    }
  }
  return { undo, redo };
}
