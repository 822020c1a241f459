import { armKey, arms, CommandError } from './finding.ts';
import type { CommandKind } from './kind.ts';

/** What an arm of any fork is called; '' for what its answer calls it. */
export const armName: CommandKind<'arm.name'> = {
  change: (doc, c) => {
    const arm: { name?: string | undefined } | undefined = arms(doc).find((a) => a.id === c.arm);
    if (!arm) throw new CommandError('arm', 'That arm is no longer in the sequence.');
    const { name = '' } = arm;
    if (c.name === '') delete arm.name;
    else arm.name = c.name;
    return { ...c, name };
  },
  scope: (c) => ({ writes: [[`${armKey(c.arm)}/name`, c.name]], works: [armKey(c.arm)] }),
};
