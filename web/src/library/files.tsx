import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { FileRow } from '@ascenso/contracts';
import { useChangeFileMutation, useKeepFileMutation } from './endpoints.ts';
import { sentence } from '../app/api.ts';
import { Button, Dialog, Empty, Field, number, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { useDelete } from '../ui/use-delete.ts';
import { useLibrary } from './library.tsx';
import { FileField } from '../ui/file-field.tsx';
import { NameField } from '../ui/name-field.tsx';
import { NumberField } from '../ui/number-field.tsx';

const isPicture = (f: FileRow) => f.mime.startsWith('image/');
const kB = (bytes: number) => `${number(Math.max(1, Math.round(bytes / 1000)))} kB`;

/** A picture drawn anew at another width; the same kind of file, or a JPEG where there is no transparency to keep. */
async function resized(file: FileRow, width: number): Promise<File> {
  const picture = await createImageBitmap(await (await fetch(`/f/${file.id}`)).blob());
  const canvas = new OffscreenCanvas(width, Math.round((picture.height * width) / picture.width));
  canvas.getContext('2d')?.drawImage(picture, 0, 0, canvas.width, canvas.height);
  const type = file.mime === 'image/png' ? 'image/png' : 'image/jpeg';
  const blob = await canvas.convertToBlob({ type, quality: 0.85 });
  return new File([blob], file.name.replace(/(\.\w+)?$/, ` ${width}$1`), { type });
}

function Details({ file, folders, onClose }: { file: FileRow; folders: string[]; onClose: () => void }) {
  const [change] = useChangeFileMutation();
  const [keep] = useKeepFileMutation();
  const [form, setForm] = useState({
    name: file.name,
    folder: file.folder,
    alt: file.alt,
    keywords: file.keywords.join(', '),
  });
  const [width, setWidth] = useState(Math.min(1200, file.width ?? 1200));
  const remove = useDelete('files');
  const set = (key: keyof typeof form) => (e: { target: { value: string } }) =>
    setForm({ ...form, [key]: e.target.value });
  const told = async (sent: Promise<{ error?: unknown }>, done: string) => {
    const { error } = await sent;
    if (error) return void toast.error(sentence(error));
    toast.success(done);
    onClose();
  };
  const save = () =>
    told(
      change({
        id: file.id,
        ...form,
        keywords: form.keywords
          .split(',')
          .map((k) => k.trim())
          .filter(Boolean),
      }),
      'Saved.',
    );
  const resize = async () => {
    const body = new FormData();
    body.append('file', await resized(file, width));
    await told(keep(body), `A copy, ${width} px wide, is in the library.`);
  };
  return (
    <Dialog open onClose={onClose} title={file.name} wide>
      <div className="grid grid-cols-2 gap-5">
        <div>
          {isPicture(file) ? (
            <img
              src={`/f/${file.id}`}
              alt={file.alt}
              className="max-h-72 w-full rounded-control border border-line object-contain"
            />
          ) : (
            <p className="rounded-control bg-slate-tint p-8 text-center font-bold text-slate">
              {file.mime.split('/')[1]?.toUpperCase()}
            </p>
          )}
          <p className="mt-2 text-ink-2">
            {file.width && `${file.width} × ${file.height} px, `}
            {kB(file.size)}
            {!isPicture(file) && `, downloaded by ${number(file.downloads)} people`}
          </p>
          {isPicture(file) && (file.width ?? 0) > 600 && (
            <div className="mt-3 flex items-end gap-2">
              <NumberField
                label="A copy this wide"
                unit="px"
                least={100}
                most={file.width ?? 2000}
                step={100}
                value={width}
                save={setWidth}
                hint="1,200 px is sharp everywhere."
              />
              <Button onClick={() => void resize()}>Resize</Button>
            </div>
          )}
        </div>
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <TextField label="Name" value={form.name} onChange={set('name')} />
          <Field label="Folder">
            {(id) => (
              <NameField
                id={id}
                label="Folder"
                value={form.folder}
                of={folders}
                save={(folder) => setForm({ ...form, folder })}
              />
            )}
          </Field>
          {isPicture(file) && (
            <TextField label="Alt text, taken over into emails" value={form.alt} onChange={set('alt')} />
          )}
          <TextField label="Keywords, parted by commas" value={form.keywords} onChange={set('keywords')} />
          <div className="flex justify-between">
            <Button tone="danger" onClick={() => void remove(file.id, file.name).then((gone) => gone && onClose())}>
              Delete
            </Button>
            <Button tone="main" type="submit">
              Save
            </Button>
          </div>
        </form>
      </div>
    </Dialog>
  );
}

/** Pictures and files of the workspace: searched, in folders, each with its alt text. */
export function FilesRoom() {
  const { files } = useLibrary();
  const [keep, { isLoading }] = useKeepFileMutation();
  const [q, setQ] = useState('');
  const [folder, setFolder] = useState('*');
  const [open, setOpen] = useState<FileRow | null>(null);
  const folders = useMemo(() => [...new Set(files.map((f) => f.folder).filter(Boolean))].sort(), [files]);
  const found = files.filter(
    (f) =>
      (folder === '*' || f.folder === folder) &&
      [f.name, f.alt, f.folder, ...f.keywords].join(' ').toLowerCase().includes(q.toLowerCase()),
  );
  const upload = async (list: readonly File[]) => {
    for (const file of list) {
      const body = new FormData();
      body.append('file', file);
      const answer = await keep(body);
      if (answer.error) toast.error(`${file.name}: ${sentence(answer.error)}`);
    }
  };
  return (
    <>
      <div className="flex items-end gap-3">
        <div className="w-72">
          <TextField label="Find by name, alt text or keyword" value={q} onChange={(e) => setQ(e.target.value)} />
        </div>
        <div className="w-48">
          <Choice
            label="Folder"
            value={folder}
            choose={setFolder}
            of={[
              { value: '*', label: 'all' },
              { value: '', label: 'in none' },
              ...folders.map((f) => ({ value: f, label: f })),
            ]}
          />
        </div>
        <FileField
          label="Upload files"
          hint="Pictures, PDF or ZIP, 10 MB each at most; drop them here"
          multiple
          busy={isLoading ? 'Uploading …' : null}
          take={(files) => void upload(files)}
        />
      </div>
      {found.length === 0 && (
        <Empty
          text={
            files.length === 0 ? 'No file yet. Upload one here, or from an email’s picture or button.' : 'No file fits.'
          }
        />
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-3">
        {found.map((f) => (
          <li key={f.id}>
            <button
              type="button"
              onClick={() => setOpen(f)}
              className="flex w-full flex-col rounded-sheet border border-line bg-sheet p-2 text-left hover:border-spruce"
            >
              {isPicture(f) ? (
                <img src={`/f/${f.id}`} alt={f.alt} className="h-28 w-full rounded-control object-cover" />
              ) : (
                <span className="flex h-28 w-full items-center justify-center rounded-control bg-slate-tint font-bold text-slate">
                  {f.mime.split('/')[1]?.toUpperCase()}
                </span>
              )}
              <span className="mt-1.5 w-full truncate font-semibold">{f.name}</span>
              <span className="text-[12px] text-ink-2">
                {isPicture(f)
                  ? `${f.width} × ${f.height} px, ${kB(f.size)}`
                  : `${kB(f.size)}, ${number(f.downloads)} people downloaded it`}
              </span>
              {isPicture(f) && !f.alt && <span className="text-[12px] text-ochre-text">No alt text yet</span>}
            </button>
          </li>
        ))}
      </ul>
      {open && <Details file={open} folders={folders} onClose={() => setOpen(null)} />}
    </>
  );
}
