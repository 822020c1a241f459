import { useLayoutEffect, useMemo, useRef, useState } from 'react';
import { createPortal } from 'react-dom';
import type { Block } from '@ascenso/core';
import { useSet } from './use-set.ts';
import { LineOnPage } from './editors/index.ts';

/** Blocks whose words are one line that is written on the page. */
export type Worded = Extract<Block, { kind: 'heading' | 'button' }>;

export const isWorded = (block: Block): block is Worded => block.kind === 'heading' || block.kind === 'button';

/** Where in a block its words stand, by name; what it is called there, and what it says while there are none. */
const WORDS = {
  heading: { field: 'text', part: 'heading', label: 'Words of the heading', placeholder: 'A heading' },
  button: { field: 'label', part: 'label', label: 'Words of the button', placeholder: 'What it does' },
} as const;

/** Stands for the words while the block around them is drawn. */
const HERE = 'written0here';

/** A block as its own compile draws it, with the line that it says open to be written in its place. */
export function WrittenFace({ block, draw }: { block: Worded; draw: (block: Block) => string }) {
  const set = useSet(block);
  const { field, ...words } = WORDS[block.kind];
  const value = block.kind === 'heading' ? block.text : block.label;
  // Drawn anew when its look changes, never while it is written.
  const look = JSON.stringify({ ...block, [field]: HERE });
  const html = useMemo(() => draw(JSON.parse(look) as Block).replace(HERE, '<span data-here></span>'), [draw, look]);
  const face = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState<Element | null>(null);
  useLayoutEffect(() => setPlace(face.current?.querySelector('[data-here]') ?? null), [html]);
  return (
    <>
      {/* Made by our own compile, which escapes every word in it. */}
      <div
        ref={face}
        className="[&_:is(h1,h2,h3)]:[font-family:inherit]"
        dangerouslySetInnerHTML={useMemo(() => ({ __html: html }), [html])}
      />
      {place && createPortal(<LineOnPage key={block.id} {...words} value={value} save={(v) => set(field, v)} />, place)}
    </>
  );
}
