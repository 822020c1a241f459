import { useEffect } from 'react';

/** Frames that are waited for what is drawn a moment after something has been selected. */
const FRAMES = 40;

/** Focuses the first that `find` answers, as soon as it is there; `otherwise` when it does not come. Answers how to give up. */
function focusOnce(find: () => HTMLElement | null, otherwise: () => void = () => undefined): () => void {
  let tries = 0;
  let frame = 0;
  const look = () => {
    const target = find();
    if (target) target.focus();
    else if (tries++ < FRAMES) frame = requestAnimationFrame(look);
    else otherwise();
  };
  frame = requestAnimationFrame(look);
  return () => cancelAnimationFrame(frame);
}

const find = (selector: string) => document.querySelector<HTMLElement>(selector);

/** Puts the focus where a block is written: into its text on the page, or the first field of its settings. */
export function focusWriting(block: string): void {
  const own = CSS.escape(block);
  focusOnce(
    () =>
      find(`[data-canvas] [data-block="${own}"] [contenteditable=true]`) ??
      find(`[data-settings="${own}"] [data-part]`),
    () => focusBlock(block),
  );
}

/** Puts the focus into the first field of a block's settings. */
export const focusSettings = (block: string): void =>
  void focusOnce(() => find(`[data-settings="${CSS.escape(block)}"] [data-part]`));

/** Brings a block of the page into sight, as far as it is not. */
export const scrollToBlock = (block: string): void =>
  find(`[data-canvas] [data-block="${CSS.escape(block)}"]`)?.scrollIntoView({ block: 'nearest' });

/** Puts the focus on a block of the page. */
export const focusBlock = (block: string): void =>
  void requestAnimationFrame(() => find(`[data-block="${CSS.escape(block)}"] [aria-pressed]`)?.focus());

/** Puts the focus on the field that a finding speaks of: in the envelope, in the block, or in its settings. */
export function useJump(ready: boolean, block: string | null, part: string | null) {
  useEffect(() => {
    if (!ready || !part) return;
    const inBlock = block ? `[data-block="${CSS.escape(block)}"] ` : '';
    const field = `[data-part="${CSS.escape(part)}"]`;
    return focusOnce(
      () => find(inBlock + field) ?? find(field),
      // A block that has no such field is gone to itself.
      () => find(`${inBlock}[aria-pressed]`)?.focus(),
    );
  }, [ready, block, part]);
}
