import { z } from 'zod';
import { conditionSchema, type Condition } from '../audience/index.ts';

/**
 * Who sees a block. Blocks that follow each other make a chain: the first begins it with "if", those behind say "else
 * if" or "else", and one person sees the first that fits.
 */
export const whenSchema = z.union([
  z.object({ chain: z.enum(['if', 'elseif']), condition: conditionSchema }),
  z.object({ chain: z.literal('else') }),
]);
export type When = z.infer<typeof whenSchema>;

/** What stands alone, or the versions of one chain, in order. */
export type Link<T> = { alone: T } | { chain: { item: T; condition: Condition | null }[] };

/**
 * Reads chains out of a list. An "else if" that follows nothing begins a chain; an "else" that follows nothing is shown
 * to everyone, and a check says so.
 */
export function chainsOf<T extends { when?: When | undefined }>(list: readonly T[]): Link<T>[] {
  const out: Link<T>[] = [];
  let open: { item: T; condition: Condition | null }[] | null = null;
  for (const item of list) {
    const { when } = item;
    if (!when || (when.chain === 'else' && !open)) {
      out.push({ alone: item });
      open = null;
      continue;
    }
    const arm = { item, condition: 'condition' in when ? when.condition : null };
    if (when.chain !== 'if' && open) open.push(arm);
    else {
      open = [arm];
      out.push({ chain: open });
    }
    if (when.chain === 'else') open = null;
  }
  return out;
}
