import { armKey, CommandError, mustFindArm } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** The share of an arm of a split. */
export const armWeigh: CommandKind<'arm.weigh'> = {
  change: (doc, c) => {
    const { fork, index } = mustFindArm(doc, c.arm);
    const arm = fork.arms[index];
    if (!arm || !('weight' in arm)) throw new CommandError('arm', 'Only an arm of a split has a share.');
    const { weight } = arm;
    arm.weight = c.weight;
    return { ...c, weight };
  },
  scope: (c) => ({ writes: [[`${armKey(c.arm)}/weight`, c.weight]], works: [armKey(c.arm)] }),
};
