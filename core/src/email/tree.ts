import type { Condition } from '../audience/index.ts';
import { blockParts, holdsAs, insideOf, type Block } from './blocks/index.ts';
import { partsOfRich } from './rich.ts';

/** A block with the place where it stands: `list` is null for the email itself, else the id of a section or column. */
export interface PlacedBlock {
  block: Block;
  list: string | null;
  siblings: Block[];
  index: number;
  /** How many blocks it stands inside of. */
  depth: number;
  parent: Block | null;
}

/** All blocks of an email in reading order, those inside others right behind them. */
export function walkBlocks(
  blocks: Block[],
  list: string | null = null,
  depth = 0,
  parent: Block | null = null,
): PlacedBlock[] {
  return blocks.flatMap((block, index) => [
    { block, list, siblings: blocks, index, depth, parent },
    ...insideOf(block).flatMap((inner) => walkBlocks(inner.blocks, inner.id, depth + 1, block)),
  ]);
}

export const findBlock = (blocks: Block[], id: string): PlacedBlock | undefined =>
  walkBlocks(blocks).find((p) => p.block.id === id);

/** The list of blocks with an id: the email's own for null, else of a section or a column. */
export function blockList(
  blocks: Block[],
  list: string | null,
): { blocks: Block[]; inside: 'email' | 'section' | 'column' } | undefined {
  if (list === null) return { blocks, inside: 'email' };
  for (const { block } of walkBlocks(blocks))
    for (const inner of insideOf(block))
      if (inner.id === list) return { blocks: inner.blocks, inside: holdsAs(block) ?? 'column' };
  return undefined;
}

/** A copy of a block under new ids, inside and out. */
export function copyBlock(block: Block, newId: () => string): Block {
  const copy = JSON.parse(JSON.stringify(block)) as Block;
  for (const p of walkBlocks([copy])) p.block.id = newId();
  // A list that is its block's own is known by the block's id.
  for (const { block: b } of walkBlocks([copy])) for (const l of insideOf(b)) if (l.id !== b.id) l.id = newId();
  return copy;
}

/** Conditions of one block: its own, its columns', and those of stretches of its text. */
export function conditionsOfBlock(block: Block): Condition[] {
  return [
    ...(block.when && 'condition' in block.when ? [block.when.condition] : []),
    ...insideOf(block).flatMap((l) => (l.condition ? [l.condition] : [])),
    ...blockParts(block).rich.flatMap((r) => partsOfRich(r.doc).only.map((o) => o.condition)),
  ];
}

/** Every condition that the content of an email asks, so that its facts can be loaded. */
export const conditionsOfEmail = (
  email: { blocks: Block[] },
  shared: Readonly<Record<string, readonly Block[]>> = {},
): Condition[] =>
  walkBlocks(email.blocks).flatMap(({ block }) => [
    ...conditionsOfBlock(block),
    ...(block.kind === 'shared'
      ? walkBlocks([...(shared[block.shared] ?? [])]).flatMap((p) => conditionsOfBlock(p.block))
      : []),
  ]);
