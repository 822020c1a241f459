import {
  DndContext,
  DragOverlay,
  MouseSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragEndEvent,
  type DragStartEvent,
  type Modifier,
} from '@dnd-kit/core';
import { createContext, useContext, useState, type MouseEvent, type ReactNode } from 'react';
import { stepWords, type Names, type Place, type Sequence } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { liesInside, outermost } from './moves.ts';
import { moveTo } from './moving.ts';

/** How far from a plus one may let go, px: from the middle of a card the one under it is near. */
const REACH = 200;

/** The plus nearest to the pointer. */
const nearest: CollisionDetection = ({ droppableContainers, droppableRects, pointerCoordinates: pointer }) =>
  !pointer
    ? []
    : droppableContainers
        .flatMap((droppableContainer) => {
          const { id } = droppableContainer;
          const rect = droppableRects.get(id);
          if (!rect) return [];
          const value = Math.hypot(pointer.x - rect.left - rect.width / 2, pointer.y - rect.top - rect.height / 2);
          return value > REACH ? [] : [{ id, data: { droppableContainer, value } }];
        })
        .sort((a, b) => a.data.value - b.data.value);

/** What is taken hangs a little beside the pointer, so that one sees where it goes. */
const atPointer: Modifier = ({ activatorEvent, activeNodeRect, transform }) => {
  const { clientX = 0, clientY = 0 } = (activatorEvent as globalThis.MouseEvent | null) ?? {};
  const { left = 0, top = 0 } = activeNodeRect ?? {};
  return { ...transform, x: transform.x + clientX - left + 12, y: transform.y + clientY - top + 8 };
};

const nothing = () => undefined;
/** Nobody who cannot see the pointer drags by it: keys have their own ways and their own words. */
const SILENT = {
  announcements: { onDragStart: nothing, onDragOver: nothing, onDragEnd: nothing, onDragCancel: nothing },
};

const stepUnder = (event: Event | null): string | null => {
  const step = (event?.target as Element | null)?.closest<HTMLElement>('[data-step]')?.dataset.step;
  return !step || step === 'trigger' ? null : step;
};

/** Begins on a step only. The mouse alone, since a finger scrolls. */
class StepSensor extends MouseSensor {
  static override activators = [
    {
      eventName: 'onMouseDown' as const,
      handler: ({ nativeEvent }: MouseEvent) => nativeEvent.button === 0 && stepUnder(nativeEvent) !== null,
    },
  ];
}
/** Not before it has gone so far, px: it may be a click. */
const FROM = { activationConstraint: { distance: 6 } };

const NONE: ReadonlySet<string> = new Set();
const Taken = createContext(NONE);
/** The steps that are being dragged. */
export const useTakenSteps = () => useContext(Taken);

/**
 * Steps of a plan are taken by the mouse to any plus of it, those that are chosen together. The plan as a whole is what the
 * library drags, and a plus is a place only meanwhile: with one of each for every step, every edit of a long plan paid.
 */
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
  const [taken, setTaken] = useState(NONE);
  const sensors = useSensors(useSensor(StepSensor, FROM));
  const take = ({ activatorEvent }: DragStartEvent) => {
    const step = stepUnder(activatorEvent);
    if (step) setTaken(meant(step));
  };
  const drop = ({ over }: DragEndEvent) => {
    if (over) dispatch(moveTo(taken, over.data.current as Place));
    setTaken(NONE);
  };
  const aim: CollisionDetection = (args) =>
    nearest({
      ...args,
      droppableContainers: args.droppableContainers.filter((d) => !liesInside(doc, taken, d.data.current as Place)),
    });
  const [first, ...more] = outermost(doc, taken);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={aim}
      onDragStart={take}
      onDragEnd={drop}
      onDragCancel={() => setTaken(NONE)}
      accessibility={SILENT}
    >
      <Taken.Provider value={taken}>
        <Grip>{children}</Grip>
      </Taken.Provider>
      <DragOverlay dropAnimation={null} modifiers={[atPointer]}>
        {first && (
          <div className="flex min-h-8 w-max max-w-80 items-center rounded-control border border-spruce bg-sheet px-3 font-semibold">
            <span className="truncate">{more.length > 0 ? `${more.length + 1} steps` : stepWords(first, names)}</span>
          </div>
        )}
      </DragOverlay>
    </DndContext>
  );
}

function Grip({ children }: { children: ReactNode }) {
  const { setNodeRef, listeners } = useDraggable({ id: 'steps' });
  return (
    <div ref={setNodeRef} {...listeners} className="contents">
      {children}
    </div>
  );
}

/** A plus of the plan, as a place for what is dragged. */
export function StepPlace({ at }: { at: Place }) {
  const { setNodeRef, isOver } = useDroppable({ id: `${at.arm ?? ''}:${at.index}`, data: { ...at } });
  return (
    <span ref={setNodeRef} className="pointer-events-none absolute inset-0 z-10">
      {isOver && (
        <span className="absolute top-1/2 left-1/2 h-1 w-72 -translate-1/2 rounded-full bg-spruce after:absolute after:top-1/2 after:left-1/2 after:size-4 after:-translate-1/2 after:rounded-full after:bg-spruce" />
      )}
    </span>
  );
}
