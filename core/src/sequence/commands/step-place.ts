import { armKey } from './finding.ts';
import type { Slot } from './kind.ts';

/** A place in the list of the sequence itself, or of an arm. */
export const slotOfStep = ({ arm, index }: { arm: string | null; index: number }): Slot => ({
  list: arm === null ? 'steps' : armKey(arm),
  index,
});
export const insideArm = (arm: string | null): string[] => (arm === null ? [] : [armKey(arm)]);
