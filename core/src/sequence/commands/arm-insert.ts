import { MAX_ARMS } from '../schema.ts';
import { armKey, arms, CommandError, forkOf, keysOfStep, lastIndex, stepKey, structuredCloneJson } from './finding.ts';
import type { CommandKind } from './kind.ts';

const slot = (c: { step: string; index: number }) => ({ list: `arms/${c.step}`, index: c.index });

export const armInsert: CommandKind<'arm.insert'> = {
  change: (doc, c) => {
    const fork = forkOf(doc, c.step);
    if (arms(doc).some((a) => a.id === c.arm.id)) throw new CommandError('arm', 'That arm is already in the sequence.');
    if (fork.arms.length >= MAX_ARMS)
      throw new CommandError('arm', `There are ${MAX_ARMS} arms at most: ask the rest in another step.`);
    if ('condition' in c.arm !== (fork.kind === 'branch'))
      throw new CommandError('arm', 'An arm of a branch has a condition, an arm of a split a share.');
    (fork.arms as unknown[]).splice(Math.min(c.index, lastIndex(fork)), 0, structuredCloneJson(c.arm));
    return { type: 'arm.remove', arm: c.arm.id };
  },
  scope: (c) => ({
    works: [stepKey(c.step), armKey(c.arm.id), ...c.arm.steps.flatMap(keysOfStep)],
    splices: [{ at: slot(c), by: 1 }],
  }),
  place: { of: slot, put: (c, index) => ({ ...c, index }) },
};
