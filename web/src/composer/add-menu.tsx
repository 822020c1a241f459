import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
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

/** How well a kind fits what is typed: by the beginning of its name, by its name, by what it is for; null where it does not. */
function fits(kind: BlockKindName, typed: string): number | null {
  const [name, about] = [blockKinds[kind].name.toLowerCase(), blockKinds[kind].about.toLowerCase()];
  if (name.startsWith(typed)) return 0;
  return name.includes(typed) ? 1 : about.includes(typed) ? 2 : null;
}

/** The list of block kinds, narrowed by letters: arrows go through it, Enter takes one. */
export function AddMenu({ place, onClose }: { place: BlockPlace; onClose: () => void }) {
  const { step, write } = useComposer();
  const dispatch = useAct();
  const offered = useOffered(place);
  const [q, setQ] = useState('');
  const found = useMemo(
    () =>
      offered
        .flatMap((kind) => {
          const rank = fits(kind, q.trim().toLowerCase());
          return rank === null ? [] : [{ kind, rank }];
        })
        .sort((a, b) => a.rank - b.rank)
        .map((f) => f.kind),
    [offered, q],
  );
  const pick = (kind: BlockKindName | null) => {
    if (kind === null) return;
    const made = dispatch(addBlock(step, kind, place));
    onClose();
    if (made) write(made);
  };
  return (
    <Dialog open onClose={onClose} title="Add a block">
      <Combobox value={null} onChange={pick}>
        <ComboboxInput
          autoFocus
          aria-label="Find a block"
          placeholder="Find a block"
          onChange={(e) => setQ(e.target.value)}
          className={inputClass}
        />
        <ComboboxOptions static className="mt-2 max-h-80 overflow-y-auto">
          {found.map((k) => (
            <ComboboxOption
              key={k}
              value={k}
              className="flex w-full cursor-pointer items-center gap-3 rounded-control px-2 py-1.5 text-left data-focus:bg-paper"
            >
              <BlockIcon kind={k} />
              <span className="w-28 font-semibold">{blockKinds[k].name}</span>
              <span className="flex-1 text-ink-2">{blockKinds[k].about}</span>
            </ComboboxOption>
          ))}
          {found.length === 0 && <p className="px-2 py-3 text-ink-2">No block is called that.</p>}
        </ComboboxOptions>
      </Combobox>
    </Dialog>
  );
}
