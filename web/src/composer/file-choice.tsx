import { useState, type DragEvent, type ReactNode } from 'react';
import type { FileRow } from '@ascenso/contracts';
import { useAct } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { setPicture } from './actions.ts';
import { blockOf, useComposer } from './context.ts';
import { usePicturePlace } from './dragging.tsx';
import { FileField } from '../ui/file-field.tsx';
import { useUpload, type PutFile } from './uploads.ts';

const kB = (bytes: number) => `${Math.max(1, Math.round(bytes / 1000))} kB`;

/** Says how large a picture is, and what would be better. */
function Advice({ file, shown }: { file: FileRow; shown: number }) {
  const { width, size } = file;
  const better =
    width === null
      ? null
      : width > 2 * shown && size > 150_000
        ? `It is shown at ${shown} px: ${2 * shown} px are enough.`
        : width < shown
          ? `It is narrower than the ${shown} px it is shown at, and will look soft.`
          : null;
  return (
    <p className="text-[12px] text-ink-2">
      {width} × {file.height} px, {kB(size)}.{better && <b className="font-semibold text-ochre-text"> {better}</b>}
    </p>
  );
}

/** Chooses a hosted picture or file, or uploads one. */
export function FileChoice({
  files,
  label,
  value,
  images,
  choose,
  here = false,
  shown = 0,
}: {
  files: readonly FileRow[];
  label: string;
  value: string;
  images: boolean;
  choose: PutFile;
  /** The place ends with its screen: what arrives later stays in the library. */
  here?: boolean;
  /** Width at which a picture is shown, px. */
  shown?: number;
}) {
  const [upload, uploading] = useUpload(here);
  const fit = files.filter((f) => f.mime.startsWith('image/') === images);
  const chosen = fit.find((f) => f.id === value);
  const folders = [...new Set(fit.map((f) => f.folder))].sort();
  const option = (f: FileRow) => ({
    value: f.id,
    label: f.name,
    ...(f.folder ? { group: f.folder } : {}),
    ...(images ? { picture: `/f/${f.id}` } : {}),
  });
  return (
    <div className="flex flex-col gap-2">
      <Choice
        label={label}
        part="picture"
        value={value}
        choose={choose}
        of={[
          { value: '', label: 'None chosen' },
          ...folders.flatMap((folder) => fit.filter((f) => f.folder === folder).map(option)),
        ]}
      />
      {chosen && images && <Advice file={chosen} shown={shown} />}
      <FileField
        label={images ? 'Upload a picture' : 'Upload a file'}
        hint="10 MB at most; drop it here"
        busy={uploading ? 'Uploading …' : null}
        accept={images ? 'image/png,image/jpeg,image/gif,image/webp' : '.pdf,.zip'}
        take={([file]) => file && void upload(file, choose)}
      />
    </div>
  );
}

/** Takes a picture that is dropped onto a block: from the desktop, or from the pictures beside the page. */
export function FileDrop({ block, children }: { block: string; children: ReactNode }) {
  const composer = useComposer();
  const dispatch = useAct();
  const [upload] = useUpload();
  const [over, setOver] = useState(false);
  const { ref, isOver } = usePicturePlace(block);
  const hasFile = (e: DragEvent) => e.dataTransfer.types.includes('Files');
  const drop = (e: DragEvent) => {
    setOver(false);
    const file = e.dataTransfer.files[0];
    if (!file) return;
    e.preventDefault();
    void upload(file, (id) => dispatch(setPicture(blockOf(composer, block), { id, alt: '' })));
  };
  return (
    <div
      ref={ref}
      onDragOver={(e) => {
        if (hasFile(e)) {
          e.preventDefault();
          setOver(true);
        }
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
      className={over || isOver ? 'outline-2 outline-offset-[-2px] outline-spruce' : ''}
    >
      {children}
    </div>
  );
}
