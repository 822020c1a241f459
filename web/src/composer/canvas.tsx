import { Copy, Trash2 } from 'lucide-react';
import { Fragment, useMemo } from 'react';
import {
  type Block,
  blockKinds,
  type Column,
  describe,
  emptinessOf,
  hexOf,
  isLocked,
  modeOf,
  type When,
} from '@ascenso/core';
import { sharedOf } from '@ascenso/contracts';
import { useAct } from '../app/store.ts';
import { EmailFrame, IconButton } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { duplicateBlocks, removeBlocks, setBlock, takesPicture } from './actions.ts';
import { useComposer } from './context.ts';
import { Gap, useTaken } from './dragging.tsx';
import { RichEditor } from './editors/index.ts';
import { FileDrop } from './file-choice.tsx';
import { faceOf } from './node-face.ts';
import { TimerFace } from './timer-face.tsx';

/** Who sees it, on the edge of a block that not everybody sees. */
function WhenFlag({ when }: { when: When }) {
  const { doc } = useComposer();
  const names = useNames(doc);
  const words = 'condition' in when ? describe(when.condition, names) : '';
  const lead = when.chain === 'else' ? 'For everybody else' : when.chain === 'if' ? 'Only if' : 'Else, if';
  return (
    <p className="max-w-full truncate rounded-t-[6px] bg-plum px-2 py-0.5 font-sans text-[12px] font-semibold text-white">
      {lead}
      {words && ` · ${words}`}
    </p>
  );
}

function TextFace({ block, side }: { block: Extract<Block, { kind: 'text' | 'quote' }>; side: number }) {
  const { step, around } = useComposer();
  const dispatch = useAct();
  const { style } = around;
  const { look } = block;
  const quoted = block.kind === 'quote';
  const box = {
    fontFamily: style.font,
    fontSize: look?.size ?? style.size,
    lineHeight: 1.55,
    color: look?.color ? hexOf(look.color, style) : style.text,
    textAlign: look?.align ?? 'left',
    background: look?.background ? hexOf(look.background, style) : undefined,
    padding: `${look?.above ?? (quoted ? 12 : 8)}px ${side}px ${look?.below ?? (quoted ? 12 : 8)}px`,
  } as const;
  const editor = (
    <RichEditor
      key={block.id}
      label="Text of the block"
      doc={block.doc}
      block={block.id}
      save={(doc) => dispatch(setBlock(step, block.id, 'doc', doc))}
    />
  );
  return (
    <div style={box}>
      {quoted ? (
        <div style={{ borderLeft: `3px solid ${style.accent}`, paddingLeft: 18, fontStyle: 'italic' }}>{editor}</div>
      ) : (
        editor
      )}
    </div>
  );
}

/** What stands on the canvas for a block that shows nothing by itself. */
const EMPTY: Partial<Record<Block['kind'], string>> = {
  image: 'Choose a picture on the right, or drop one here',
  video: 'Choose a still picture on the right, or drop one here',
  article: 'Write its title on the right',
  button: 'A button: write its words on the right',
  heading: 'A heading: write it on the right',
  logo: 'No logo and no brand yet: add them under Library, House style',
  social: 'No social links yet: add them under Library, House style',
  links: 'A row of links: write their words on the right',
  repeat: 'Choose on the right which list it goes through',
  shared: 'Choose a shared block on the right',
  html: 'Write your source on the right',
};

function Face({ block, side }: { block: Block; side: number }) {
  const { step, around, doc } = useComposer();
  const service = doc.list === null;
  const html = useMemo(
    () =>
      faceOf(block, around.style, {
        shared: sharedOf(around),
        service,
        letter: modeOf(step.email) === 'letter',
        side,
        sizeOf: (id) => {
          const file = around.files.find((f) => f.id === id);
          return file?.width && file.height ? { width: file.width, height: file.height } : null;
        },
      }),
    [block, around, step.email, side, service],
  );
  if (block.kind === 'text' || block.kind === 'quote') return <TextFace block={block} side={side} />;
  if (block.kind === 'timer') return <TimerFace block={block} side={side} />;
  if (block.kind === 'columns') return <ColumnsFace block={block} />;
  if (block.kind === 'section') return <SectionFace block={block} />;
  if (block.kind === 'html' && block.source.trim())
    return (
      <EmailFrame title="The source of this block" html={`<head></head>${block.source}`} className="h-40 w-full" />
    );
  // A button without words is drawn by its compile: what there is to see of it is its place.
  if (html === '' || emptinessOf(block)) {
    const words = (
      <p className="mx-8 my-2 rounded-control border border-dashed border-[#c9c2b2] py-6 text-center font-sans text-ink-2">
        {EMPTY[block.kind] ?? 'Nothing in it yet'}
      </p>
    );
    return takesPicture(block) ? <FileDrop block={block.id}>{words}</FileDrop> : words;
  }
  // Made by our own compile, which escapes every word in it; a source of the author's own is shut in a frame above.
  // Headings are in the email's font, not in the application's.
  const face = (
    <div
      className="pointer-events-none [&_:is(h1,h2,h3)]:[font-family:inherit]"
      dangerouslySetInnerHTML={{ __html: html }}
    />
  );
  return takesPicture(block) ? <FileDrop block={block.id}>{face}</FileDrop> : face;
}

function ColumnFace({ column }: { column: Column }) {
  return (
    <div style={{ flex: column.share }} className="min-w-0 outline-1 outline-dashed outline-line">
      {column.condition && <WhenFlag when={{ chain: 'if', condition: column.condition }} />}
      <BlockStack blocks={column.blocks} list={column.id} side={12} />
      {column.blocks.length === 0 && (
        <p className="px-2 py-6 text-center font-sans text-[13px] text-ink-2">Drop blocks here</p>
      )}
    </div>
  );
}

function ColumnsFace({ block }: { block: Extract<Block, { kind: 'columns' }> }) {
  const { around } = useComposer();
  const background = block.look?.background ? hexOf(block.look.background, around.style) : undefined;
  return (
    <div
      className="flex"
      style={{ padding: `${block.look?.above ?? 8}px 20px ${block.look?.below ?? 8}px`, background }}
    >
      {block.columns.map((c) => (
        <ColumnFace key={c.id} column={c} />
      ))}
    </div>
  );
}

function SectionFace({ block }: { block: Extract<Block, { kind: 'section' }> }) {
  const { around } = useComposer();
  const background = block.look?.background ? hexOf(block.look.background, around.style) : undefined;
  return (
    <div
      style={{
        padding: `${block.look?.above ?? 8}px 0 ${block.look?.below ?? 8}px`,
        background,
        backgroundImage: block.picture ? `url(/f/${block.picture})` : undefined,
        backgroundSize: 'cover',
      }}
      className="outline-1 outline-dashed outline-line"
    >
      <BlockStack blocks={block.blocks} list={block.id} side={32} />
      {block.blocks.length === 0 && (
        <p className="px-2 py-6 text-center font-sans text-[13px] text-ink-2">Drop blocks here</p>
      )}
    </div>
  );
}

function OnCanvas({ block, side }: { block: Block; side: number }) {
  const { step, selected, chosen, select, show } = useComposer();
  const dispatch = useAct();
  const isSelected = block.id === selected?.id;
  const { ref, handle, isDragging } = useTaken('canvas', { block: block.id, words: blockKinds[block.kind].name });
  const only = new Set([block.id]);
  return (
    <div
      ref={ref}
      data-block={block.id}
      onFocus={(e) => {
        e.stopPropagation();
        if (!isSelected) select(block.id);
      }}
      onClick={(e) => {
        e.stopPropagation();
        if (!isSelected || e.shiftKey) select(block.id, e.shiftKey);
      }}
      className={`relative outline-2 ${block.off ? 'opacity-35' : ''} ${isDragging ? 'opacity-40' : ''} ${isSelected ? 'outline-spruce' : chosen.has(block.id) ? 'outline-spruce-mid' : 'outline-transparent hover:outline-line'} ${block.when ? 'border-l-4 border-plum' : ''}`}
    >
      {block.when && <WhenFlag when={block.when} />}
      {isSelected && !isLocked(block) && (
        <span className="absolute -top-8 left-0 z-20 flex items-center rounded-t-control bg-spruce pl-2 font-sans text-[12px] font-semibold text-white">
          <span {...handle} className="cursor-grab touch-none py-1.5" title="Drag to move">
            {blockKinds[block.kind].name}
          </span>
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
      )}
      <Face block={block} side={side} />
    </div>
  );
}

function BlockStack({ blocks, list, side }: { blocks: readonly Block[]; list: string | null; side: number }) {
  return (
    <>
      {blocks.map((b, i) => (
        <Fragment key={b.id}>
          <Gap place={{ list, index: i }} from="canvas" />
          <OnCanvas block={b} side={side} />
        </Fragment>
      ))}
      {!blocks.some(isLocked) && <Gap place={{ list, index: blocks.length }} from="canvas" />}
    </>
  );
}

/** The page that is written on. */
export function Canvas() {
  const { step, around } = useComposer();
  const letter = modeOf(step.email) !== 'designed';
  return (
    <div
      className="mx-auto py-4"
      style={{ maxWidth: around.style.width, background: letter ? '#ffffff' : around.style.sheet }}
    >
      <BlockStack blocks={step.email.blocks} list={null} side={letter ? 8 : 32} />
    </div>
  );
}
