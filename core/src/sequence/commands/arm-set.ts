import { z } from 'zod';
import { conditionSchema } from '../../audience/index.ts';
import { armKey, CommandError, mustFindArm, setField } from './finding.ts';
import type { CommandKind } from './kind.ts';

const armSchema = z.object({ id: z.string(), condition: conditionSchema.nullable(), steps: z.unknown() });

/** The condition of an arm of a branch. */
export const armSet: CommandKind<'arm.set'> = {
  change: (doc, c) => {
    const { fork, index } = mustFindArm(doc, c.arm);
    const arm = fork.arms[index];
    if (!arm || !('condition' in arm)) throw new CommandError('arm', 'Only an arm of a branch has a condition.');
    const old = arm.condition;
    setField(arm, 'condition', c.condition, armSchema);
    return { ...c, condition: old };
  },
  scope: (c) => ({ writes: [[`${armKey(c.arm)}/condition`, c.condition]], works: [armKey(c.arm)] }),
};
