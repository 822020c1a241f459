import type { Condition } from '../../audience/index.ts';
import type { Arm, SplitArm } from '../schema.ts';
import { armKey, CommandError, isOtherwise, keysOfStep, mustFindArm } from './finding.ts';
import type { CommandKind } from './kind.ts';

export const armRemove: CommandKind<'arm.remove'> = {
  change: (doc, c) => {
    const { fork, index } = mustFindArm(doc, c.arm);
    if (fork.arms.length <= 2 || isOtherwise(fork, index))
      throw new CommandError('arm', 'Two arms have to stay, and “otherwise”. Delete the whole step instead.');
    const [arm] = fork.arms.splice(index, 1);
    return { type: 'arm.insert', step: fork.id, index, arm: arm as (Arm & { condition: Condition }) | SplitArm };
  },
  scope: (c, inverse) =>
    inverse.type === 'arm.insert'
      ? {
          removes: [armKey(c.arm), ...inverse.arm.steps.flatMap(keysOfStep)],
          splices: [{ at: { list: `arms/${inverse.step}`, index: inverse.index }, by: -1 }],
        }
      : { removes: [armKey(c.arm)] },
};
