import { toast } from 'sonner';
import {
  blockKinds,
  blockList,
  blockTitle,
  copyBlock,
  findBlock,
  findStep,
  isLocked,
  mayStand,
  walkBlocks,
  type Block,
  type BlockKindName,
  type Command,
  type EmailStep,
} from '@ascenso/core';
import { edit, editOf, undo } from '../drafts/draft.ts';
import type { AppDispatch } from '../app/store.ts';
import { newId } from '../ui/names.ts';
import type { BlockOf, BlockPlace } from './context.ts';
import { placeAfter, placeFor } from './places.ts';

type Thunk<T> = (dispatch: AppDispatch) => T;

const into = ({ list, index }: BlockPlace) => ({ index, ...(list === null ? {} : { into: list }) });

const setting = ({ step, block }: BlockOf, field: string, value: unknown): Command => ({
  type: 'block.set',
  step,
  block,
  field,
  value,
});

export const setBlock = (of: BlockOf, field: string, value: unknown): Thunk<boolean> =>
  editOf(of.draft, () => [setting(of, field, value)]);

/** Lets a file go along with every copy of an email. */
export const attachFile = (draft: string, step: string, file: string): Thunk<boolean> =>
  editOf(draft, (doc) => {
    const found = findStep(doc, step)?.step;
    const now = (found?.kind === 'email' && found.email.attachments) || [];
    return [{ type: 'email.set', step, field: 'attachments', value: [...new Set([...now, file])] }];
  });

type WithPicture = Extract<Block, { file: string }>;

/** Whether a block shows one picture of the library. */
export const takesPicture = (block: Block): block is WithPicture => 'file' in block;

/** Puts a picture into a block that shows one. What the library says of it comes with it, where nothing is said yet. */
export const setPicture = (of: BlockOf, file: { id: string; alt: string }): Thunk<boolean> =>
  editOf(of.draft, (doc) => {
    const step = findStep(doc, of.step)?.step;
    const block = step?.kind === 'email' ? findBlock(step.email.blocks, of.block)?.block : undefined;
    return [
      setting(of, 'file', file.id),
      ...(block && 'sender' in block && block.sender ? [setting(of, 'sender', null)] : []),
      ...(file.alt && block && takesPicture(block) && !block.alt ? [setting(of, 'alt', file.alt)] : []),
    ];
  });

export const insertBlocks =
  (step: EmailStep, blocks: readonly Block[], place: BlockPlace): Thunk<string | null> =>
  (dispatch) => {
    // What a column does not take goes out of it: each list counts for itself.
    const before = new Map<string | null, number>();
    const commands = blocks.map((block): Command => {
      const at = placeFor(step, block.kind, place);
      const n = before.get(at.list) ?? 0;
      before.set(at.list, n + 1);
      return { type: 'block.insert', step: step.id, block, ...into({ ...at, index: at.index + n }) };
    });
    return dispatch(edit(commands)) ? (blocks[0]?.id ?? null) : null;
  };

/** A new block with a picture of the library in it. */
export const pictureBlock = (file: { id: string; alt: string }): Block => ({
  ...blockKinds.image.blank(newId),
  file: file.id,
  alt: file.alt,
});

/** Puts a new block of a kind at a place and answers its id. */
export const addBlock =
  (step: EmailStep, kind: BlockKindName, place: BlockPlace): Thunk<string | null> =>
  (dispatch) =>
    dispatch(insertBlocks(step, [blockKinds[kind].blank(newId)], place));

/** Moves a block to a place, reckoned as the lists are before it is taken out. */
export const moveBlockTo =
  (step: EmailStep, id: string, place: BlockPlace): Thunk<void> =>
  (dispatch) => {
    const found = findBlock(step.email.blocks, id);
    if (!found || isLocked(found.block) || (place.list !== null && blockList([found.block], place.list))) return;
    const at = placeFor(step, found.block.kind, place);
    const index = at.list === found.list && at.index > found.index ? at.index - 1 : at.index;
    if (at.list === found.list && index === found.index) return;
    dispatch(edit([{ type: 'block.move', step: step.id, block: id, ...into({ list: at.list, index }) }]));
  };

/** Moves a block up or down; at the end of a section or column, out of it. */
export const moveBlock =
  (step: EmailStep, id: string, by: -1 | 1): Thunk<void> =>
  (dispatch) => {
    const found = findBlock(step.email.blocks, id);
    if (!found) return;
    const neighbour = found.siblings[found.index + by];
    if (neighbour && isLocked(neighbour)) return;
    if (neighbour)
      return dispatch(moveBlockTo(step, id, { list: found.list, index: found.index + (by === 1 ? 2 : -1) }));
    const owner = found.parent && findBlock(step.email.blocks, found.parent.id);
    if (owner) dispatch(moveBlockTo(step, id, { list: owner.list, index: owner.index + (by === 1 ? 1 : 0) }));
  };

/** Of chosen blocks, those that do not stand inside another chosen one, in reading order. The footer is left out. */
export function outermost(step: EmailStep, ids: ReadonlySet<string>): Block[] {
  const all = walkBlocks(step.email.blocks);
  const inside = (parent: Block | null): boolean =>
    parent !== null && (ids.has(parent.id) || inside(all.find((p) => p.block.id === parent.id)?.parent ?? null));
  return all.filter((p) => ids.has(p.block.id) && !isLocked(p.block) && !inside(p.parent)).map((p) => p.block);
}

export const removeBlocks =
  (step: EmailStep, ids: ReadonlySet<string>): Thunk<boolean> =>
  (dispatch) => {
    const blocks = outermost(step, ids);
    if (blocks.length === 0) return false;
    if (!dispatch(edit(blocks.map((b) => ({ type: 'block.remove', step: step.id, block: b.id }))))) return false;
    const [first] = blocks;
    const what = blocks.length === 1 && first ? `the block “${blockTitle(first)}”` : `${blocks.length} blocks`;
    toast(`Deleted ${what}.`, { action: { label: 'Undo', onClick: () => dispatch(undo()) } });
    return true;
  };

export const duplicateBlocks =
  (step: EmailStep, ids: ReadonlySet<string>): Thunk<string | null> =>
  (dispatch) => {
    const blocks = outermost(step, ids);
    const last = blocks.at(-1);
    if (!last) return null;
    const copies = blocks.map((b) => copyBlock(b, newId));
    return dispatch(insertBlocks(step, copies, placeAfter(step, last.id)));
  };

// What was copied last, whichever email it came from; it outlives going from one to another.
let hand: Block[] = [];

export function copyBlocks(step: EmailStep, ids: ReadonlySet<string>): void {
  const blocks = outermost(step, ids);
  if (blocks.length === 0) return;
  hand = blocks;
  toast(`Copied ${blocks.length === 1 ? 'a block' : `${blocks.length} blocks`}. Ctrl V puts it into any email.`);
}

export const pasteBlocks =
  (step: EmailStep, place: BlockPlace): Thunk<string | null> =>
  (dispatch) =>
    hand.length === 0
      ? null
      : dispatch(
          insertBlocks(
            step,
            hand.map((b) => copyBlock(b, newId)),
            place,
          ),
        );

/** Puts chosen blocks into a section of their own, so that they can share a ground or a condition. */
export const wrapBlocks =
  (step: EmailStep, ids: ReadonlySet<string>): Thunk<string | null> =>
  (dispatch) => {
    const blocks = outermost(step, ids).filter((b) => mayStand(b.kind, 'section'));
    const [first] = blocks;
    const found = first && findBlock(step.email.blocks, first.id);
    if (!found) return null;
    const section = { ...blockKinds.section.blank(newId), blocks: blocks as never[] };
    const place = placeFor(step, 'section', { list: found.list, index: found.index });
    const done = dispatch(
      edit([
        ...blocks.map((b): Command => ({ type: 'block.remove', step: step.id, block: b.id })),
        { type: 'block.insert', step: step.id, block: section, ...into(place) },
      ]),
    );
    return done ? section.id : null;
  };
