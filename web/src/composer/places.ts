import {
  type BlockKindName,
  blockList,
  type EmailStep,
  findBlock,
  insideOf,
  isLocked,
  mayStand,
  walkBlocks,
} from '@ascenso/core';
import type { BlockPlace } from './context.ts';

/** The place right behind a block, or before the footer where none is given. What has an empty list takes the next block in. */
export function placeAfter(step: EmailStep, id: string | null): BlockPlace {
  const { blocks } = step.email;
  const found = id === null ? undefined : findBlock(blocks, id);
  const empty = found && insideOf(found.block).find((l) => l.blocks.length === 0);
  if (empty) return { list: empty.id, index: 0 };
  if (found && !isLocked(found.block)) return { list: found.list, index: found.index + 1 };
  return { list: null, index: blocks.filter((b) => !isLocked(b)).length };
}

/** A place that this kind may stand in: the nearest list outwards that takes it. */
export function placeFor(step: EmailStep, kind: BlockKindName, place: BlockPlace): BlockPlace {
  const list = blockList(step.email.blocks, place.list);
  if (!list || mayStand(kind, list.inside)) return place;
  const owner = walkBlocks(step.email.blocks).find(({ block }) => insideOf(block).some((l) => l.id === place.list));
  return owner ? placeFor(step, kind, { list: owner.list, index: owner.index + 1 }) : { list: null, index: 0 };
}
