import { useState, type DragEvent, type ReactNode } from 'react';
import { toast } from 'sonner';
import type { FileRow } from '@ascenso/contracts';
import { useKeepFileMutation } from '../library/endpoints.ts';
import { sentence } from '../app/api.ts';
import { useAct } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { setPicture } from './actions.ts';
import { useComposer } from './context.ts';
import { usePicturePlace } from './dragging.tsx';
import { FileField } from '../ui/file-field.tsx';

const kB = (bytes: number) => `${Math.max(1, Math.round(bytes / 1000))} kB`;

/** Uploads a file and answers its id, or undefined when it was refused; the reason is told. */
export function useUpload(): [(file: File) => Promise<string | undefined>, boolean] {
  const [keep, { isLoading }] = useKeepFileMutation();
  const upload = async (file: File) => {
    const body = new FormData();
    body.append('file', file);
    const answer = await keep(body);
    if (answer.error) toast.error(sentence(answer.error));
    else if (answer.data.known)
      toast(`This picture is in the library already, as “${answer.data.known}”: that one is used.`);
    return answer.data?.id;
  };
  return [upload, isLoading];
}

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
  shown = 0,
}: {
  files: readonly FileRow[];
  label: string;
  value: string;
  images: boolean;
  choose: (id: string) => void;
  /** Width at which a picture is shown, px. */
  shown?: number;
}) {
  const [upload, uploading] = useUpload();
  const fit = files.filter((f) => f.mime.startsWith('image/') === images);
  const chosen = fit.find((f) => f.id === value);
  const folders = [...new Set(fit.map((f) => f.folder))].sort();
  const option = (f: FileRow) => ({
    value: f.id,
    label: f.name,
    ...(f.folder ? { group: f.folder } : {}),
    ...(images ? { picture: `/f/${f.id}` } : {}),
  });
  const take = async (file: File | undefined) => {
    const id = file && (await upload(file));
    if (id) choose(id);
  };
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
        take={([file]) => void take(file)}
      />
    </div>
  );
}

/** Takes a picture that is dropped onto a block: from the desktop, or from the pictures beside the page. */
export function FileDrop({ block, children }: { block: string; children: ReactNode }) {
  const { step } = useComposer();
  const dispatch = useAct();
  const [upload] = useUpload();
  const [over, setOver] = useState(false);
  const { ref, isOver } = usePicturePlace(block);
  const hasFile = (e: DragEvent) => e.dataTransfer.types.includes('Files');
  const drop = async (e: DragEvent) => {
    setOver(false);
    const file = e.dataTransfer.files[0];
    if (!file) return;
    e.preventDefault();
    const id = await upload(file);
    if (id) dispatch(setPicture(step, block, { id, alt: '' }));
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
      onDrop={(e) => void drop(e)}
      className={over || isOver ? 'outline-2 outline-offset-[-2px] outline-spruce' : ''}
    >
      {children}
    </div>
  );
}
