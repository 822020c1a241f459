import { useMemo, useState } from 'react';
import { blockKinds, blockList, mayStand, type BlockKindName } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { Dialog, inputClass } from '../ui/index.tsx';
import { addBlock } from './actions.ts';
import { useComposer, type BlockPlace } from './context.ts';
import { BlockIcon } from './icons.tsx';

/** Kinds that can be added at a place; a second footer cannot. */
export function useOffered(place: BlockPlace): BlockKindName[] {
  const { step } = useComposer();
  const { blocks } = step.email;
  const inside = blockList(blocks, place.list)?.inside ?? 'email';
  const hasFooter = blocks.some((b) => b.kind === 'footer');
  return (Object.keys(blockKinds) as BlockKindName[]).filter(
    (k) => mayStand(k, inside) && !(k === 'footer' && hasFooter),
  );
}

/** The list of block kinds, searched by typing: Enter takes the first. */
export function AddMenu({ place, onClose }: { place: BlockPlace; onClose: () => void }) {
  const { step, show } = useComposer();
  const dispatch = useAct();
  const offered = useOffered(place);
  const [q, setQ] = useState('');
  const found = useMemo(
    () => offered.filter((k) => `${blockKinds[k].name} ${blockKinds[k].about}`.toLowerCase().includes(q.toLowerCase())),
    [offered, q],
  );
  const pick = (kind: BlockKindName) => {
    const made = dispatch(addBlock(step, kind, place));
    onClose();
    if (made) show(made);
  };
  return (
    <Dialog open onClose={onClose} title="Add a block">
      <input
        aria-label="Find a block"
        placeholder="Find a block"
        value={q}
        onChange={(e) => setQ(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== 'Enter' || !found[0]) return;
          e.preventDefault();
          pick(found[0]);
        }}
        className={inputClass}
        autoFocus
      />
      <ul className="mt-2 max-h-80 overflow-y-auto">
        {found.map((k) => (
          <li key={k}>
            <button
              type="button"
              onClick={() => pick(k)}
              className="flex w-full items-center gap-3 rounded-control px-2 py-1.5 text-left hover:bg-paper"
            >
              <BlockIcon kind={k} />
              <span className="w-28 font-semibold">{blockKinds[k].name}</span>
              <span className="flex-1 text-ink-2">{blockKinds[k].about}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="px-2 py-3 text-ink-2">No block is called that.</li>}
      </ul>
    </Dialog>
  );
}
