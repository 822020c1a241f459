import { createContext, useContext, useEffect, useMemo, useState, type ReactNode, type RefObject } from 'react';
import { findBlock, type Email, type RichText } from '@ascenso/core';
import { useRendered, type Drawn, type Rendered } from './preview.ts';
import type { Reading } from './reading.ts';

export type Peek = (block: string, doc: RichText) => void;

const RenderedContext = createContext<Rendered | null>(null);

/** The email as the real compile makes it for the reader, with what is being typed; null until it is made. */
export const useRenderedNow = (): Rendered | null => useContext(RenderedContext);

/** The email with a text that is still being written, until it arrives as an edit. */
function usePeeking(email: Email | null): [Email | null, Peek] {
  const [peeked, setPeeked] = useState<{ block: string; doc: RichText } | null>(null);
  useEffect(() => setPeeked(null), [email]);
  const shown = useMemo(() => {
    if (!email || !peeked) return email;
    const copy = JSON.parse(JSON.stringify(email)) as Email;
    const block = findBlock(copy.blocks, peeked.block)?.block;
    if (block && 'doc' in block) block.doc = peeked.doc;
    return copy;
  }, [email, peeked]);
  return [shown, (block, doc) => setPeeked({ block, doc })];
}

/**
 * Makes the email anew at every key and hands it to the previews. What it wraps is not drawn again for that: a page of eighty
 * blocks would keep the keys waiting. `peek` is where the editors tell what is typed.
 */
export function Rendering({
  email,
  around,
  reading,
  service,
  peek,
  children,
}: {
  email: Email | null;
  around: Drawn | undefined;
  reading: Reading;
  service: boolean;
  peek?: RefObject<Peek>;
  children: ReactNode;
}) {
  const [shown, show] = usePeeking(email);
  useEffect(() => {
    if (peek) peek.current = show;
  });
  const rendered = useRendered(shown, around, reading, service);
  return <RenderedContext.Provider value={rendered}>{children}</RenderedContext.Provider>;
}
