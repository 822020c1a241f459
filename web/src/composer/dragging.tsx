import {
  DndContext,
  DragOverlay,
  PointerSensor,
  pointerWithin,
  useDndContext,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from '@dnd-kit/core';
import { Plus } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import type { FileRow } from '@ascenso/contracts';
import { blockKinds, type BlockKindName } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { newId } from '../ui/names.ts';
import { insertBlocks, moveBlockTo, pictureBlock, setPicture } from './actions.ts';
import { blockOf, useComposer, type BlockPlace } from './context.ts';

/** What is dragged: a new block of a kind, one that is there, or a picture of the library. */
type Dragged = { kind: BlockKindName } | { block: string; words: string } | { picture: FileRow };
/** Where it can be dropped: between blocks, or a picture onto a block that shows one. */
type Target = BlockPlace | { pictureOf: string };

const wordsOf = (what: Dragged): string =>
  'kind' in what ? blockKinds[what.kind].name : 'block' in what ? what.words : what.picture.name;

/** How far beside a gap one may let go, px: further than half of most blocks, so that every place in a column is near one. */
const REACH = 80;

/** Where something lands: what lies under the pointer, and beside it the nearest gap above or below. */
const aim: CollisionDetection = (args) => {
  const under = pointerWithin(args);
  const at = args.pointerCoordinates;
  if (under.length > 0 || !at) return under;
  return args.droppableContainers
    .flatMap((droppableContainer) => {
      const rect = args.droppableRects.get(droppableContainer.id);
      if (!rect || at.x < rect.left || at.x > rect.right) return [];
      const value = Math.abs(at.y - (rect.top + rect.height / 2));
      return value > REACH
        ? []
        : [{ id: droppableContainer.id, data: { droppableContainer, value }, width: rect.width }];
    })
    .sort((a, b) => a.data.value - b.data.value || a.width - b.width);
};

/** Dragging about the composer: from the palette and from block to block, onto the gaps between blocks. */
export function Dragging({ children }: { children: ReactNode }) {
  const composer = useComposer();
  const { step, select } = composer;
  const dispatch = useAct();
  const [dragged, setDragged] = useState<Dragged | null>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const drop = ({ active, over }: DragEndEvent) => {
    setDragged(null);
    const target = over?.data.current as Target | undefined;
    const what = active.data.current as Dragged | undefined;
    if (!target || !what) return;
    if ('pictureOf' in target) {
      if ('picture' in what && dispatch(setPicture(blockOf(composer, target.pictureOf), what.picture)))
        select(target.pictureOf);
      return;
    }
    if ('block' in what) return dispatch(moveBlockTo(step, what.block, target));
    const block = 'kind' in what ? blockKinds[what.kind].blank(newId) : pictureBlock(what.picture);
    const made = dispatch(insertBlocks(step, [block], target));
    if (made) select(made);
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={aim}
      onDragStart={(e) => setDragged((e.active.data.current as Dragged | undefined) ?? null)}
      onDragEnd={drop}
      onDragCancel={() => setDragged(null)}
    >
      {children}
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <span className="rounded-control border border-spruce bg-sheet px-3 py-1.5 font-semibold">
            {wordsOf(dragged)}
          </span>
        )}
      </DragOverlay>
    </DndContext>
  );
}

/** Something that can be taken by the pointer. `from` keeps apart the places where the same block shows. */
export function useTaken(from: string, what: Dragged) {
  const key = 'kind' in what ? what.kind : 'block' in what ? what.block : what.picture.id;
  // Blocks have keys of their own for moving them: the library's keyboard dragging would take Enter and space away.
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: `${from}:${key}`, data: what });
  return { ref: setNodeRef, handle: listeners ?? {}, isDragging };
}

/** A block onto which a picture of the library can be dropped. */
export function usePicturePlace(block: string) {
  const { active } = useDndContext();
  const disabled = !('picture' in ((active?.data.current as Dragged | undefined) ?? {}));
  const { setNodeRef, isOver } = useDroppable({ id: `picture:${block}`, data: { pictureOf: block }, disabled });
  return { ref: setNodeRef, isOver };
}

/** The gap between two blocks: takes what is dropped, and offers the list of kinds. */
export function Gap({ place, from, thin = false }: { place: BlockPlace; from: string; thin?: boolean }) {
  const { offer } = useComposer();
  const { setNodeRef, isOver, active } = useDroppable({
    id: `${from}:${place.list ?? ''}:${place.index}`,
    data: { ...place },
  });
  return (
    <div ref={setNodeRef} className={`group/gap relative z-[5] ${active ? 'h-4 -my-2' : 'h-2 -my-1'}`}>
      <div
        className={`absolute inset-x-0 top-1/2 h-0.5 ${isOver ? 'bg-spruce' : 'bg-transparent group-hover/gap:bg-spruce-mid group-focus-within/gap:bg-spruce-mid'}`}
      />
      {!thin && (
        <button
          type="button"
          aria-label="Add a block here"
          title="Add a block here"
          onClick={() => offer(place)}
          className="absolute top-1/2 left-1/2 flex size-6 -translate-1/2 items-center justify-center rounded-full bg-spruce text-white opacity-0 group-hover/gap:opacity-100 focus-visible:opacity-100"
        >
          <Plus size={14} />
        </button>
      )}
    </div>
  );
}
