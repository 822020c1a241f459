import { emailFields, type Block } from '../email/index.ts';
import { applyCommands, completed, structuredCloneJson, type Command } from './commands/index.ts';
import { settingNames, type EmailStep, type Sequence, type Step } from './schema.ts';
import { armsOf, findStep, walk } from './tree.ts';

/** Whether two values are the same as JSON. */
export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
const plain = (value: object) => value as Record<string, unknown>;

/** Fields of a step that are set as a whole; arms and the email have commands of their own. */
const ownFields = (...steps: Step[]) =>
  [...new Set(steps.flatMap(Object.keys))].filter((k) => !['id', 'kind', 'arms', 'email'].includes(k));

function blockChanges(step: string, before: readonly Block[], after: readonly Block[]): Command[] {
  const out: Command[] = [];
  const work = before.map((b) => b.id);
  const put = (c: Command, id: string, index: number) => {
    out.push(c);
    if (work.includes(id)) work.splice(work.indexOf(id), 1);
    work.splice(index, 0, id);
  };
  after.forEach((block, index) => {
    const old = before.find((b) => b.id === block.id);
    if (!old || old.kind !== block.kind) {
      if (old) {
        out.push({ type: 'block.remove', step, block: old.id });
        work.splice(work.indexOf(old.id), 1);
      }
      return put({ type: 'block.insert', step, index, block }, block.id, index);
    }
    if (work[index] !== block.id) put({ type: 'block.move', step, block: block.id, index }, block.id, index);
    for (const field of new Set([...Object.keys(old), ...Object.keys(block)]))
      if (!same(plain(old)[field], plain(block)[field]))
        out.push({ type: 'block.set', step, block: block.id, field, value: plain(block)[field] ?? null });
  });
  for (const id of work.slice(after.length)) out.push({ type: 'block.remove', step, block: id });
  return out;
}

function emailChanges(before: EmailStep, after: EmailStep): Command[] {
  const envelope = emailFields
    .filter((field) => !same(before.email[field], after.email[field]))
    .map((field): Command => ({ type: 'email.set', step: after.id, field, value: after.email[field] ?? null }));
  return [...envelope, ...blockChanges(after.id, before.email.blocks, after.email.blocks)];
}

/** A step as it is put in: what stands in its arms comes there by commands of its own. */
function bare(step: Step): Step {
  if (!('arms' in step)) return step;
  return { ...step, arms: step.arms.map((a) => ({ ...a, steps: [] })) } as Step;
}

/** What has to change on the arms of a step that stays. New arms come in before steps move into them. */
function armChanges(before: Step, after: Step): Command[] {
  if (after.kind !== 'branch' && after.kind !== 'split' && after.kind !== 'until') return [];
  const old = armsOf(before);
  const out: Command[] = [];
  after.arms.forEach((arm, index) => {
    const known = old.find((a) => a.id === arm.id);
    const empty = { ...arm, steps: [] };
    if (!known) {
      out.push({ type: 'arm.insert', step: after.id, index, arm: empty as never });
      return;
    }
    if (known.name !== arm.name) out.push({ type: 'arm.name', arm: arm.id, name: arm.name ?? '' });
    if ('condition' in arm && !same((known as typeof arm).condition, arm.condition))
      out.push({ type: 'arm.set', arm: arm.id, condition: arm.condition });
    const { weight } = arm as { weight?: number };
    if (weight !== undefined && (known as { weight?: number }).weight !== weight)
      out.push({ type: 'arm.weigh', arm: arm.id, weight });
  });
  return out;
}

/**
 * The commands that make one version out of another: what changed, as data. Applied to `before` they give `after`. Steps
 * and blocks are known by their ids, wherever they have moved.
 */
export function difference(old: Sequence, now: Sequence): Command[] {
  const [before, after] = [completed(structuredCloneJson(old)), completed(structuredCloneJson(now))];
  const out: Command[] = [];
  let work = before;
  const emit = (...commands: Command[]) => {
    if (commands.length === 0) return;
    out.push(...commands);
    work = applyCommands(work, commands).doc;
  };
  for (const field of settingNames)
    if (!same(before[field], after[field])) emit({ type: 'set', field, value: after[field] });
  // In reading order: when a step is looked at, everything before it stands where it belongs.
  for (const { step, place } of walk(after)) {
    const known = findStep(before, step.id)?.step;
    if (!known) {
      emit({ type: 'step.insert', place, step: bare(step) });
      continue;
    }
    if (!same(findStep(work, step.id)?.place, place)) emit({ type: 'step.move', step: step.id, place });
    for (const field of ownFields(known, step))
      if (!same(plain(known)[field], plain(step)[field]))
        emit({ type: 'step.set', step: step.id, field, value: plain(step)[field] ?? null });
    if (known.kind === 'email' && step.kind === 'email') emit(...emailChanges(known, step));
    emit(...armChanges(known, step));
  }
  const stays = new Set(walk(after).map((v) => v.step.id));
  for (
    let gone = walk(work).find((v) => !stays.has(v.step.id));
    gone;
    gone = walk(work).find((v) => !stays.has(v.step.id))
  )
    emit({ type: 'step.remove', step: gone.step.id });
  for (const { step } of walk(after)) {
    if (step.kind !== 'branch' && step.kind !== 'split') continue;
    const wanted = step.arms.map((a) => a.id);
    const armsNow = () => armsOf(findStep(work, step.id)?.step ?? step).map((a) => a.id);
    for (const id of armsNow()) if (!wanted.includes(id)) emit({ type: 'arm.remove', arm: id });
    wanted.forEach((id, index) => {
      if (armsNow()[index] !== id) emit({ type: 'arm.move', arm: id, index });
    });
  }
  return out;
}
