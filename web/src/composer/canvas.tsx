import { Fragment, useCallback, useMemo, useRef } from 'react';
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
import { EmailFrame } from '../ui/index.tsx';
import { useNames } from '../ui/names.ts';
import { takesPicture } from './actions.ts';
import { BlockTag } from './block-tag.tsx';
import { useComposer } from './context.ts';
import { Gap, useTaken } from './dragging.tsx';
import { RichEditor } from './editors/index.ts';
import { useSet } from './use-set.ts';
import { FileDrop } from './file-choice.tsx';
import { faceOf } from './node-face.ts';
import { PictureCorner } from './picture-corner.tsx';
import { TimerFace } from './timer-face.tsx';
import { isWorded, WrittenFace } from './written-face.tsx';

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
  const { around } = useComposer();
  const set = useSet(block);
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
      save={(doc) => set('doc', doc)}
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
  logo: 'No logo and no brand yet: add them under Library, House style',
  social: 'No social links yet: add them under Library, House style',
  links: 'A row of links: write their words on the right',
  repeat: 'Choose on the right which list it goes through',
  shared: 'Choose a shared block on the right',
  html: 'Write your source on the right',
};

function Face({ block, side }: { block: Block; side: number }) {
  const { step, around, doc, selected } = useComposer();
  const service = doc.list === null;
  const letter = modeOf(step.email) === 'letter';
  const draw = useCallback(
    (b: Block) =>
      faceOf(b, around.style, {
        shared: sharedOf(around),
        service,
        letter,
        side,
        sizeOf: (id) => {
          const file = around.files.find((f) => f.id === id);
          return file?.width && file.height ? { width: file.width, height: file.height } : null;
        },
      }),
    [around, letter, side, service],
  );
  const html = useMemo(() => (isWorded(block) ? '' : draw(block)), [block, draw]);
  const drawn = useRef<HTMLDivElement>(null);
  if (isWorded(block)) return <WrittenFace block={block} draw={draw} />;
  if (block.kind === 'text' || block.kind === 'quote') return <TextFace block={block} side={side} />;
  if (block.kind === 'timer') return <TimerFace block={block} side={side} />;
  if (block.kind === 'columns') return <ColumnsFace block={block} />;
  if (block.kind === 'section') return <SectionFace block={block} />;
  if (block.kind === 'html' && block.source.trim())
    return (
      <EmailFrame title="The source of this block" html={`<head></head>${block.source}`} className="h-40 w-full" />
    );
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
  if (!takesPicture(block)) return face;
  return (
    <div ref={drawn} className="relative">
      <FileDrop block={block.id}>{face}</FileDrop>
      {block.kind === 'image' && block.id === selected?.id && <PictureCorner block={block} face={drawn} />}
    </div>
  );
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
  const { selected, chosen, select } = useComposer();
  const isSelected = block.id === selected?.id;
  const { ref, handle, isDragging } = useTaken('canvas', { block: block.id, words: blockKinds[block.kind].name });
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
      {isSelected && !isLocked(block) && <BlockTag block={block} handle={handle} />}
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
    // Beside the page there is room for the tag of a block.
    <div className="pr-5 pl-[72px]">
      <div
        data-page
        className="mx-auto py-4"
        style={{ maxWidth: around.style.width, background: letter ? '#ffffff' : around.style.sheet }}
      >
        <BlockStack blocks={step.email.blocks} list={null} side={letter ? 8 : 32} />
      </div>
    </div>
  );
}
