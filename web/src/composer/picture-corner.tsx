import { useEffect, useState, type PointerEvent, type RefObject } from 'react';
import type { Block } from '@ascenso/core';
import { useComposer } from './context.ts';
import { useSet } from './use-set.ts';

/** Narrowest and widest picture, and how far a key goes, px. */
const [LEAST, MOST, STEP] = [40, 600, 8];

const within = (width: number) => Math.min(MOST, Math.max(LEAST, Math.round(width)));

/** The lower right corner of a picture on the page: dragged, or moved by the arrow keys, it sets the width of the picture. */
export function PictureCorner({
  block,
  face,
}: {
  block: Extract<Block, { kind: 'image' }>;
  face: RefObject<HTMLElement | null>;
}) {
  const { around } = useComposer();
  const put = useSet(block);
  const [at, setAt] = useState<{ left: number; top: number } | null>(null);
  const most = Math.min(MOST, around.style.width);
  useEffect(() => {
    const root = face.current;
    const img = root?.querySelector('img');
    if (!root || !img) return setAt(null);
    const place = () => {
      const [own, all] = [img.getBoundingClientRect(), root.getBoundingClientRect()];
      setAt({ left: own.right - all.left, top: own.bottom - all.top });
    };
    const watch = new ResizeObserver(place);
    watch.observe(img);
    watch.observe(root);
    return () => watch.disconnect();
    // The picture is another element once the block is drawn anew.
  }, [block, face]);
  if (!at) return null;
  const set = (width: number) => {
    const px = Math.min(most, within(width));
    if (px !== block.width) put('width', px);
  };
  const drag = (e: PointerEvent<HTMLElement>) => {
    const img = face.current?.querySelector('img');
    if (!img) return;
    e.preventDefault();
    e.stopPropagation();
    const { currentTarget: corner, pointerId, clientX: from } = e;
    const { left, right, width } = img.getBoundingClientRect();
    const around = face.current?.getBoundingClientRect() ?? { left, right };
    // A picture in the middle grows to both sides.
    const sides = Math.abs(left + right - around.left - around.right) < 4 ? 2 : 1;
    const widthAt = (x: number) => Math.min(most, within(width + (x - from) * sides));
    corner.setPointerCapture(pointerId);
    const move = (m: globalThis.PointerEvent) => (img.style.width = `${widthAt(m.clientX)}px`);
    const end = (m: globalThis.PointerEvent) => {
      corner.removeEventListener('pointermove', move);
      set(widthAt(m.clientX));
    };
    corner.addEventListener('pointermove', move);
    corner.addEventListener('pointerup', end, { once: true });
  };
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label="Width of the picture"
      aria-valuemin={LEAST}
      aria-valuemax={most}
      aria-valuenow={block.width}
      aria-valuetext={`${block.width} px`}
      title={`${block.width} px wide: drag, or use the arrow keys`}
      onPointerDown={drag}
      onKeyDown={(e) => {
        const by = { ArrowRight: STEP, ArrowUp: STEP, ArrowLeft: -STEP, ArrowDown: -STEP }[e.key];
        if (by === undefined || e.altKey) return;
        e.preventDefault();
        e.stopPropagation();
        set(block.width + by);
      }}
      style={{ left: at.left - 8, top: at.top - 8 }}
      className="absolute z-10 size-4 cursor-nwse-resize touch-none rounded-full border-2 border-white bg-spruce"
    />
  );
}
