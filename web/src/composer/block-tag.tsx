import { Copy, Trash2 } from 'lucide-react';
import { useLayoutEffect, useRef, useState } from 'react';
import { blockKinds, type Block } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { IconButton } from '../ui/index.tsx';
import { duplicateBlocks, removeBlocks } from './actions.ts';
import { useComposer } from './context.ts';
import type { useTaken } from './dragging.tsx';

/**
 * What a chosen block is, by which it is dragged, and what can be done with it: in the margin beside the page, wherever on the
 * page the block stands, so that nothing of the email is covered.
 */
export function BlockTag({ block, handle }: { block: Block; handle: ReturnType<typeof useTaken>['handle'] }) {
  const { step, show } = useComposer();
  const dispatch = useAct();
  const tag = useRef<HTMLSpanElement>(null);
  const [inset, setInset] = useState(0);
  useLayoutEffect(() => {
    const own = tag.current?.parentElement;
    const page = own?.closest('[data-page]');
    if (!own || !page) return;
    const place = () => setInset(own.getBoundingClientRect().left - page.getBoundingClientRect().left);
    place();
    const watch = new ResizeObserver(place);
    watch.observe(page);
    return () => watch.disconnect();
  }, []);
  const only = new Set([block.id]);
  return (
    <span
      ref={tag}
      style={{ right: `calc(100% + ${inset + 2}px)` }}
      className="absolute -top-0.5 z-20 flex w-[70px] flex-col items-center rounded-l-control bg-spruce font-sans text-[12px] font-semibold text-white"
    >
      <span {...handle} className="w-full cursor-grab touch-none truncate px-1 pt-1.5 text-center" title="Drag to move">
        {blockKinds[block.kind].name}
      </span>
      <span className="flex">
        <IconButton
          name="Duplicate (Ctrl D)"
          className="!text-white hover:!bg-spruce-deep"
          onClick={() => {
            const made = dispatch(duplicateBlocks(step, only));
            if (made) show(made);
          }}
        >
          <Copy size={13} />
        </IconButton>
        <IconButton
          name="Delete block (Del)"
          className="!text-white hover:!bg-spruce-deep"
          onClick={() => dispatch(removeBlocks(step, only))}
        >
          <Trash2 size={13} />
        </IconButton>
      </span>
    </span>
  );
}
