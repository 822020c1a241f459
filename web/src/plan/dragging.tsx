import {
  DndContext,
  DragOverlay,
  MouseSensor,
  useDndContext,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
} from '@dnd-kit/core';
import type { ReactNode } from 'react';
import { stepWords, type Names, type Place, type Sequence } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { liesInside, outermost } from './moves.ts';
import { moveTo } from './moving.ts';

/** How far from a plus one may let go, px: from the middle of a card the one under it is near. */
const REACH = 200;

/** The plus nearest to the pointer, of those that take what is dragged. */
const nearest =
  (takes: (at: Place) => boolean): CollisionDetection =>
  ({ droppableContainers, droppableRects, pointerCoordinates: pointer }) =>
    !pointer
      ? []
      : droppableContainers
          .flatMap((droppableContainer) => {
            const { id, data } = droppableContainer;
            const rect = droppableRects.get(id);
            if (!rect || !takes(data.current as Place)) return [];
            const value = Math.hypot(
              pointer.x - (rect.left + rect.width / 2),
              pointer.y - (rect.top + rect.height / 2),
            );
            return value > REACH ? [] : [{ id, data: { droppableContainer, value } }];
          })
          .sort((a, b) => a.data.value - b.data.value);

/** Nobody who cannot see the pointer drags by it: keys have their own ways and their own words. */
const silent = {
  onDragStart: () => undefined,
  onDragOver: () => undefined,
  onDragEnd: () => undefined,
  onDragCancel: () => undefined,
};

/** Steps of a plan are taken by the mouse to any plus of it, those that are chosen together. */
export function PlanDragging({
  doc,
  names,
  meant,
  children,
}: {
  doc: Sequence;
  names: Names;
  /** The steps that go along with one, itself among them. */
  meant: (step: string) => ReadonlySet<string>;
  children: ReactNode;
}) {
  const dispatch = useAct();
  // Only the mouse: a finger scrolls.
  const sensors = useSensors(useSensor(MouseSensor, { activationConstraint: { distance: 6 } }));
  const aim: CollisionDetection = (args) => {
    const taken = meant(String(args.active.id));
    return nearest((at) => !liesInside(doc, taken, at))(args);
  };
  const drop = ({ active, over }: DragEndEvent) => {
    const at = over?.data.current as Place | undefined;
    if (at) dispatch(moveTo(meant(String(active.id)), at));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={aim} onDragEnd={drop} accessibility={{ announcements: silent }}>
      {children}
      <DragOverlay dropAnimation={null}>
        <Taken doc={doc} names={names} meant={meant} />
      </DragOverlay>
    </DndContext>
  );
}

/** What hangs at the pointer. */
function Taken({ doc, names, meant }: { doc: Sequence; names: Names; meant: (step: string) => ReadonlySet<string> }) {
  const { active } = useDndContext();
  const [first, ...more] = active ? outermost(doc, meant(String(active.id))) : [];
  if (!first) return null;
  return (
    <div className="flex h-full min-h-8 w-full max-w-80 items-center rounded-control border border-spruce bg-sheet px-3 font-semibold opacity-90">
      <span className="truncate">{more.length > 0 ? `${more.length + 1} steps` : stepWords(first, names)}</span>
    </div>
  );
}

/** Lets a step be taken by the mouse. Its keys stay its own. */
export function useStepTaken(step: string) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: step });
  return { ref: setNodeRef, handle: listeners ?? {}, isDragging };
}

/** A plus of the plan as a place for what is dragged. */
export function useStepPlace(at: Place) {
  const { setNodeRef, isOver } = useDroppable({ id: `${at.arm ?? ''}:${at.index}`, data: { ...at } });
  return { ref: setNodeRef, isOver };
}
