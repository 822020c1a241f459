import { z } from 'zod';
import { columnsBlock } from './columns.ts';
import type { HouseStyle } from '../style.ts';
import type { BlockKind, BlockParts, Canvas, Colours, Compiled, Emptiness, Inner, InnerList } from './kind.ts';
import { leafKinds } from './leaves.ts';
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

type BlockSchema = (typeof blockKinds)[keyof typeof blockKinds]['schema'];
export type Block = z.infer<BlockSchema>;
// Said by its type: written out, it would be a third of a million letters to read for whoever uses it.
export const blockSchema: z.ZodType<Block> = z.discriminatedUnion(
  'kind',
  Object.values(blockKinds).map((k) => k.schema) as unknown as [BlockSchema],
);
export type BlockKindName = Block['kind'];

type AnyKind = BlockKind<BlockKindName, z.ZodType<Block>>;
// The one place where a block meets its kind: TypeScript cannot follow the pairing through the record.
const kindOf = (block: Block): AnyKind => blockKinds[block.kind];

/** Parts of a block that can be switched off, by field, each with what it is called. */
export const mayHide = (block: Block): Readonly<Record<string, string>> => kindOf(block).mayHide;

/** A block without the parts of it that are switched off: what everything looks at that draws, checks or counts it. */
function shown(block: Block): Block {
  const hidden = block.hidden?.filter((field) => Object.hasOwn(mayHide(block), field)) ?? [];
  return hidden.length === 0 ? block : { ...block, ...Object.fromEntries(hidden.map((field) => [field, ''])) };
}

export const compileBlock = (block: Block, canvas: Canvas): Compiled => kindOf(block).compile(shown(block), canvas);
export const blockParts = (block: Block): BlockParts => kindOf(block).parts(shown(block));
/** The name that its author gave it, or words from its content. */
export const blockTitle = (block: Block): string => block.name || kindOf(block).title(block);
export const isLocked = (block: Block): boolean => kindOf(block).locked === true;
/** Colours of its words on a ground (hex); null for one that has none. */
export const coloursOf = (block: Block, ground: string, style: HouseStyle): Colours | null =>
  kindOf(block).colours(shown(block), ground, style);
/** What a block lacks where there is nothing in it. */
export const emptinessOf = (block: Block): Emptiness | null => kindOf(block).empty(shown(block));
/** Lists of blocks inside a block, which can be put into and taken out of. */
export const insideOf = (block: Block): (Omit<InnerList, 'blocks'> & { blocks: Block[] })[] =>
  (kindOf(block).inside?.(block) ?? []) as (InnerList & { blocks: Block[] })[];
/** What a block is to those inside it. */
export const holdsAs = (block: Block): Inner | undefined => kindOf(block).holds;

/** Whether a kind may stand in a list: the email's own, that of a section, or a column. */
export const mayStand = (kind: BlockKindName, inside: 'email' | Inner): boolean =>
  inside === 'email' || blockKinds[kind].stands.includes(inside);

export { optionalFields, type BlockParts, type Canvas, type Compiled } from './kind.ts';
export {
  itemAddress,
  PICKED,
  pickedFields,
  repeatParts,
  type PickedItem,
  type RepeatBlock,
  type RepeatPart,
} from './repeat.ts';
export type { Column } from './columns.ts';
export { socialNames } from './social.ts';
