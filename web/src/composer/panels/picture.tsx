import { useAct } from '../../app/store.ts';
import { setPicture } from '../actions.ts';
import { blockOf, useComposer } from '../context.ts';
import { FileChoice } from '../file-choice.tsx';
import type { Of } from './parts.tsx';

/** The picture of a block: from the library, or uploaded into it. */
export function Picture({
  block,
  label,
  shown,
}: {
  block: Of<'image' | 'video' | 'article'>;
  label: string;
  shown: number;
}) {
  const composer = useComposer();
  const { around } = composer;
  const dispatch = useAct();
  // One that was just uploaded is not among the files yet.
  const choose = (id: string) =>
    dispatch(setPicture(blockOf(composer, block.id), around.files.find((f) => f.id === id) ?? { id, alt: '' }));
  return <FileChoice files={around.files} label={label} value={block.file} images choose={choose} shown={shown} />;
}
