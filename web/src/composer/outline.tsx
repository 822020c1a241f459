import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Eye, EyeOff, Monitor, Plus, Smartphone } from 'lucide-react';
import { Fragment, useState } from 'react';
import type { Surroundings } from '@ascenso/contracts';
import { blockKinds, blockTitle, insideOf, isLocked, type Block, type BlockKindName } from '@ascenso/core';
import { useAct } from '../app/store.ts';
import { IconButton } from '../ui/index.tsx';
import { useKept } from '../ui/use-kept.ts';
import { addBlock, moveBlock } from './actions.ts';
import { placeAfter } from './places.ts';
import { useOffered } from './add-menu.tsx';
import { useComposer } from './context.ts';
import { Gap, useTaken } from './dragging.tsx';
import { scrollToBlock } from './focus.ts';
import { BlockIcon } from './icons.tsx';
import { Pictures } from './pictures.tsx';
import { useSet } from './use-set.ts';

const CHAIN = { if: 'if', elseif: 'else if', else: 'else' } as const;

/** What is out of the ordinary about a block, in a word or two. */
function Marks({ block }: { block: Block }) {
  return (
    <>
      {block.when && (
        <span className="shrink-0 rounded-[5px] bg-plum-tint px-1.5 text-[11px] font-semibold text-plum">
          {CHAIN[block.when.chain]}
        </span>
      )}
      {block.kind === 'shared' && (
        <span className="shrink-0 rounded-[5px] bg-slate-tint px-1.5 text-[11px] font-semibold text-slate">shared</span>
      )}
      {block.only === 'phone' && (
        <Smartphone size={13} role="img" aria-label="On a phone only" className="shrink-0 text-ink-2" />
      )}
      {block.only === 'desktop' && (
        <Monitor size={13} role="img" aria-label="On a desktop only" className="shrink-0 text-ink-2" />
      )}
    </>
  );
}

/** A block in a word or two: its own name, that of its shared block, or its first words. */
export const titleOf = (block: Block, around: Pick<Surroundings, 'shared'>): string =>
  block.kind === 'shared' && !block.name
    ? (around.shared.find((s) => s.id === block.shared)?.name ?? 'Shared block')
    : blockTitle(block);

function Row({ block, depth }: { block: Block; depth: number }) {
  const { step, selected, chosen, select, around } = useComposer();
  const dispatch = useAct();
  const title = titleOf(block, around);
  const { ref, handle, isDragging } = useTaken('outline', { block: block.id, words: title });
  const set = useSet(block);
  const isSelected = block.id === selected?.id;
  const free = !isLocked(block);
  return (
    <div
      ref={ref}
      data-block={block.id}
      style={{ marginLeft: depth * 14 }}
      className={`flex items-center rounded-control ${isDragging ? 'opacity-40' : ''} ${isSelected ? 'bg-spruce-tint text-spruce-deep' : chosen.has(block.id) ? 'bg-[#eef4f1]' : 'hover:bg-paper-2'}`}
    >
      <button
        type="button"
        {...(free ? handle : {})}
        aria-pressed={isSelected}
        title="Shift Enter: write in it"
        onClick={(e) => {
          select(block.id, e.shiftKey || e.ctrlKey || e.metaKey);
          scrollToBlock(block.id);
        }}
        className={`flex min-w-0 flex-1 items-center gap-2 px-2 py-1.5 text-left ${block.off ? 'text-ink-2 line-through' : ''}`}
      >
        <BlockIcon kind={block.kind} />
        <span className="truncate">{title}</span>
        <Marks block={block} />
      </button>
      {isSelected && free && (
        <>
          <IconButton
            name={block.off ? 'Switch it on' : 'Switch it off'}
            className="!w-6"
            onClick={() => set('off', block.off ? null : true)}
          >
            {block.off ? <EyeOff size={13} /> : <Eye size={13} />}
          </IconButton>
          <IconButton name="Move up (Alt ↑)" className="!w-6" onClick={() => dispatch(moveBlock(step, block.id, -1))}>
            <ArrowUp size={13} />
          </IconButton>
          <IconButton name="Move down (Alt ↓)" className="!w-6" onClick={() => dispatch(moveBlock(step, block.id, 1))}>
            <ArrowDown size={13} />
          </IconButton>
        </>
      )}
    </div>
  );
}

function Rows({ blocks, list, depth }: { blocks: readonly Block[]; list: string | null; depth: number }) {
  return (
    <>
      {blocks.map((b, i) => (
        <Fragment key={b.id}>
          <Gap place={{ list, index: i }} from="outline" thin />
          <Row block={b} depth={depth} />
          {insideOf(b).map((inner, at) => (
            <Fragment key={inner.id}>
              {b.kind === 'columns' && (
                <p
                  style={{ marginLeft: (depth + 1) * 14 }}
                  className="flex items-center gap-1.5 px-2 pt-1 text-[12px] text-ink-2"
                >
                  Column {at + 1}
                  {b.columns[at]?.condition && (
                    <span className="rounded-[5px] bg-plum-tint px-1.5 text-[11px] font-semibold text-plum">some</span>
                  )}
                </p>
              )}
              <Rows blocks={inner.blocks} list={inner.id} depth={depth + 1} />
            </Fragment>
          ))}
        </Fragment>
      ))}
      {(depth > 0 || !blocks.some(isLocked)) && <Gap place={{ list, index: blocks.length }} from="outline" thin />}
    </>
  );
}

function Palette({ kind }: { kind: BlockKindName }) {
  const { step, selected, write } = useComposer();
  const dispatch = useAct();
  const { ref, handle } = useTaken('palette', { kind });
  const add = () => {
    const made = dispatch(addBlock(step, kind, placeAfter(step, selected?.id ?? null)));
    if (made) write(made);
  };
  return (
    <button
      ref={ref}
      {...handle}
      type="button"
      onClick={add}
      title={blockKinds[kind].about}
      className="flex touch-none flex-col items-center gap-1 rounded-control border border-line bg-sheet px-0.5 py-2 text-[11.5px] tracking-tight hover:border-spruce"
    >
      <BlockIcon kind={kind} />
      <span className="max-w-full truncate">{blockKinds[kind].name}</span>
    </button>
  );
}

/** All blocks of the email with those inside them, and the kinds that can be added. */
export function Outline() {
  const { step, selected, offer } = useComposer();
  const [adding, setAdding] = useState<'Blocks' | 'Pictures'>('Blocks');
  const [palette, setPalette] = useKept('composer-palette', ['open', 'folded']);
  const offered = useOffered({ list: null, index: 0 });
  return (
    <aside
      aria-label="Blocks"
      className="flex w-60 shrink-0 flex-col overflow-y-auto border-r border-line p-3 *:shrink-0"
    >
      <div className="flex items-center justify-between px-1">
        <p className="text-[12px] text-ink-2">Outline</p>
        <IconButton name="Add a block (/)" onClick={() => offer(placeAfter(step, selected?.id ?? null))}>
          <Plus size={15} />
        </IconButton>
      </div>
      <Rows blocks={step.email.blocks} list={null} depth={0} />
      <div role="group" aria-label="To add" className="mt-4 mb-1 flex items-center gap-3 px-1 text-[12px]">
        {(['Blocks', 'Pictures'] as const).map((w) => (
          <button
            key={w}
            type="button"
            aria-pressed={adding === w}
            onClick={() => {
              setAdding(w);
              setPalette('open');
            }}
            className={`min-h-6 ${adding === w ? 'font-semibold text-spruce-deep underline underline-offset-4' : 'text-ink-2 hover:text-ink'}`}
          >
            {w}
          </button>
        ))}
        <IconButton
          name={palette === 'open' ? 'Fold the blocks away: / adds one' : 'Show the blocks to add'}
          className="ml-auto"
          aria-expanded={palette === 'open'}
          onClick={() => setPalette(palette === 'open' ? 'folded' : 'open')}
        >
          {palette === 'open' ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
        </IconButton>
      </div>
      {palette === 'folded' ? null : adding === 'Pictures' ? (
        <Pictures />
      ) : (
        <div className="grid grid-cols-3 gap-1.5">
          {offered.map((k) => (
            <Palette key={k} kind={k} />
          ))}
        </div>
      )}
    </aside>
  );
}
