import { z } from 'zod';
import type { Masks } from '../masks.ts';
import type { HouseStyle } from '../style.ts';
import { buttonBlock } from './button.ts';
import { dividerBlock } from './divider.ts';
import { footerBlock } from './footer.ts';
import { headingBlock } from './heading.ts';
import { imageBlock } from './image.ts';
import type { BlockKind, BlockParts, Compiled } from './kind.ts';
import { textBlock } from './text.ts';

/** All kinds of block, in the order in which the composer offers them. */
export const blockKinds = {
  text: textBlock,
  heading: headingBlock,
  image: imageBlock,
  button: buttonBlock,
  divider: dividerBlock,
  footer: footerBlock,
} as const;

export const blockSchema = z.discriminatedUnion('kind', [
  textBlock.schema,
  headingBlock.schema,
  imageBlock.schema,
  buttonBlock.schema,
  dividerBlock.schema,
  footerBlock.schema,
]);
export type Block = z.infer<typeof blockSchema>;
export type BlockKindName = Block['kind'];

type AnyKind = BlockKind<BlockKindName, z.ZodType<Block>>;
// The one place where a block meets its kind: TypeScript cannot follow the pairing through the record.
const kindOf = (block: Block): AnyKind => blockKinds[block.kind];

export const compileBlock = (block: Block, masks: Masks, style: HouseStyle): Compiled =>
  kindOf(block).compile(block, masks, style);
export const blockParts = (block: Block): BlockParts => kindOf(block).parts(block);
export const blockTitle = (block: Block): string => kindOf(block).title(block);
export const isLocked = (block: Block): boolean => kindOf(block).locked === true;
export type { BlockParts } from './kind.ts';
