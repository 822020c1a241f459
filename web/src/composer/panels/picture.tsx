import { edit } from '../../app/draft.ts';
import { useAct } from '../../app/store.ts';
import { useComposer } from '../context.ts';
import { FileChoice } from '../file-choice.tsx';
import type { Of } from './parts.tsx';

/** A picture of the library; what is said of it there comes with it. */
export function Picture({
  block,
  label,
  shown,
}: {
  block: Of<'image' | 'video' | 'article'>;
  label: string;
  shown: number;
}) {
  const { step, around } = useComposer();
  const dispatch = useAct();
  // What the library says of a picture comes with it.
  const choose = (id: string) => {
    const alt = around.files.find((f) => f.id === id)?.alt;
    const field = (name: string, value: string) => ({
      type: 'block.set' as const,
      step: step.id,
      block: block.id,
      field: name,
      value,
    });
    dispatch(edit([field('file', id), ...(alt && !block.alt ? [field('alt', alt)] : [])]));
  };
  return <FileChoice files={around.files} label={label} value={block.file} images choose={choose} shown={shown} />;
}
