import { useState } from 'react';
import type { FileRow } from '@ascenso/contracts';
import { useAct } from '../app/store.ts';
import { inputClass } from '../ui/index.tsx';
import { insertBlocks, pictureBlock, setPicture, takesPicture } from './actions.ts';
import { blockOf, useComposer } from './context.ts';
import { useTaken } from './dragging.tsx';
import { placeAfter } from './places.ts';

/** Pictures shown before one has searched. */
const SHOWN = 24;

const found = (file: FileRow, words: string) =>
  [file.name, file.alt, file.folder, ...file.keywords].join(' ').toLowerCase().includes(words.trim().toLowerCase());

/** The pictures of the library, to be dragged onto a block or between two, or put in by a click. */
export function Pictures() {
  const { around } = useComposer();
  const [words, setWords] = useState('');
  const pictures = around.files.filter((f) => f.mime.startsWith('image/'));
  const fit = pictures.filter((f) => found(f, words));
  if (pictures.length === 0)
    return (
      <p className="px-1 text-[13px] text-ink-2">
        No picture yet: drop one from your desktop onto a picture block, or add some under Library, Files.
      </p>
    );
  return (
    <>
      <input
        type="search"
        aria-label="Find a picture"
        placeholder="Find a picture"
        value={words}
        onChange={(e) => setWords(e.target.value)}
        className={`${inputClass} mb-2`}
      />
      {fit.length === 0 && <p className="px-1 text-[13px] text-ink-2">No picture has these words.</p>}
      <div className="grid grid-cols-2 gap-1.5">
        {fit.slice(0, SHOWN).map((f) => (
          <Thumb key={f.id} file={f} />
        ))}
      </div>
      {fit.length > SHOWN && <p className="mt-1 px-1 text-[13px] text-ink-2">{fit.length - SHOWN} more: search.</p>}
    </>
  );
}

function Thumb({ file }: { file: FileRow }) {
  const composer = useComposer();
  const { step, selected, select } = composer;
  const dispatch = useAct();
  const { ref, handle } = useTaken('pictures', { picture: file });
  const put = () => {
    if (selected && takesPicture(selected) && !selected.file)
      return void dispatch(setPicture(blockOf(composer, selected.id), file));
    const made = dispatch(insertBlocks(step, [pictureBlock(file)], placeAfter(step, selected?.id ?? null)));
    if (made) select(made);
  };
  return (
    <button
      ref={ref}
      {...handle}
      type="button"
      onClick={put}
      title={file.alt || file.name}
      className="flex touch-none flex-col gap-1 overflow-hidden rounded-control border border-line bg-sheet p-1 text-[11.5px] hover:border-spruce"
    >
      <img src={`/f/${file.id}`} alt="" loading="lazy" draggable={false} className="h-16 w-full object-contain" />
      <span className="w-full truncate">{file.name}</span>
    </button>
  );
}
