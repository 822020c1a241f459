import { useComposer } from '../context.ts';
import { FileChoice } from '../file-choice.tsx';
import type { Of } from './parts.tsx';
import { useSet } from '../use-set.ts';

/** What stands behind a section. */
export function SectionPanel({ block }: { block: Of<'section'> }) {
  const set = useSet(block);
  const { around } = useComposer();
  return (
    <FileChoice
      files={around.files}
      label="Picture behind it"
      value={block.picture}
      images
      choose={(id) => set('picture', id)}
      shown={600}
    />
  );
}
