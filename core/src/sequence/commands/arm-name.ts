import { armKey, mustFindArm } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** What an arm is called; '' for what its answer calls it. */
export const armName: CommandKind<'arm.name'> = {
  change: (doc, c) => {
    const { fork, index } = mustFindArm(doc, c.arm);
    const arm = fork.arms[index] as { name?: string };
    const { name = '' } = arm;
    if (c.name === '') delete arm.name;
    else arm.name = c.name;
    return { ...c, name };
  },
  scope: (c) => ({ writes: [[`${armKey(c.arm)}/name`, c.name]], works: [armKey(c.arm)] }),
};
