import { HtmlEditor } from '../html-editor.tsx';
import { useSet, type Of } from './parts.tsx';

/** A source of the author’s own. */
export function HtmlPanel({ block }: { block: Of<'html'> }) {
  const set = useSet(block);
  return <HtmlEditor label="Source" value={block.source} save={(v) => set('source', v)} />;
}
