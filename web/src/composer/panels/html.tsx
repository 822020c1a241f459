import { HtmlEditor } from '../html-editor.tsx';
import type { Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** A source of the author’s own. */
export function HtmlPanel({ block }: { block: Of<'html'> }) {
  const set = useSet(block);
  return <HtmlEditor label="Source" value={block.source} save={(v) => set('source', v)} />;
}
