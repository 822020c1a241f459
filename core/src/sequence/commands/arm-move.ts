import { armKey, CommandError, isOtherwise, lastIndex, mustFindArm } from './finding.ts';
import type { CommandKind } from './kind.ts';

export const armMove: CommandKind<'arm.move'> = {
  change: (doc, c) => {
    const { fork, index } = mustFindArm(doc, c.arm);
    if (isOtherwise(fork, index)) throw new CommandError('arm', '“Otherwise” stays last.');
    const [arm] = fork.arms.splice(index, 1);
    (fork.arms as unknown[]).splice(Math.min(c.index, lastIndex(fork)), 0, arm);
    return { ...c, index };
  },
  scope: (c) => ({ writes: [[`place/${armKey(c.arm)}`, c.index]] }),
};
