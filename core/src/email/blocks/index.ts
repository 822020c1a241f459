import { z } from 'zod';
import { columnsBlock } from './columns.ts';
import type { BlockKind, BlockParts, Canvas, Compiled } from './kind.ts';
import { leafKinds, leafSchemas } from './leaves.ts';
import { repeatBlock } from './repeat.ts';
import { sectionBlock } from './section.ts';
import { sharedBlock } from './shared.ts';

const { footer, ...others } = leafKinds;
/** All kinds of block, in the order in which the composer offers them. */
export const blockKinds = {
  ...others,
  columns: columnsBlock,
  section: sectionBlock,
  repeat: repeatBlock,
  shared: sharedBlock,
  footer,
} as const;

export const blockSchema = z.discriminatedUnion('kind', [
  ...leafSchemas,
  columnsBlock.schema,
  sectionBlock.schema,
  repeatBlock.schema,
  sharedBlock.schema,
]);
export type Block = z.infer<typeof blockSchema>;
export type BlockKindName = Block['kind'];

type AnyKind = BlockKind<BlockKindName, z.ZodType<Block>>;
// The one place where a block meets its kind: TypeScript cannot follow the pairing through the record.
const kindOf = (block: Block): AnyKind => blockKinds[block.kind];

export const compileBlock = (block: Block, canvas: Canvas): Compiled => kindOf(block).compile(block, canvas);
export const blockParts = (block: Block): BlockParts => kindOf(block).parts(block);
/** The name that its author gave it, or words from its content. */
export const blockTitle = (block: Block): string => block.name || kindOf(block).title(block);
export const isLocked = (block: Block): boolean => kindOf(block).locked === true;
/** Lists of blocks inside a block, which can be put into and taken out of. */
export const insideOf = (block: Block): { id: string; blocks: Block[] }[] =>
  (kindOf(block).inside?.(block) ?? []) as { id: string; blocks: Block[] }[];

/** Kinds that may stand in a list: the email's own, that of a section, or a column. */
export function mayStand(kind: BlockKindName, inside: 'email' | 'section' | 'column'): boolean {
  if (inside === 'email') return true;
  if (kind === 'footer' || kind === 'section' || kind === 'shared') return false;
  return inside === 'section' || (kind !== 'columns' && kind !== 'repeat');
}

export { optionalFields, type BlockParts, type Canvas, type Compiled } from './kind.ts';
export { itemAddress, repeatParts, type RepeatBlock, type RepeatPart } from './repeat.ts';
export type { Column } from './columns.ts';
export { socialNames } from './social.ts';
