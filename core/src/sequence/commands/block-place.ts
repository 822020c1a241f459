import { blockKey, stepKey } from './finding.ts';
import type { Slot } from './kind.ts';

interface Into {
  step: string;
  index: number;
  into?: string | null | undefined;
}

/** A place in the list of an email itself, or of a section or a column. */
export const slotOfBlock = ({ step, index, into }: Into): Slot => ({
  list: into ? blockKey(step, into) : stepKey(step),
  index,
});
export const insideBlock = ({ step, into }: Omit<Into, 'index'>): string[] => [
  stepKey(step),
  ...(into ? [blockKey(step, into)] : []),
];
