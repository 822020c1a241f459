import type { FormEvent } from 'react';
import { toast } from 'sonner';
import { sentence, useAroundQuery, useChangeMutation } from '../app/api.ts';
import { Button, Chip, number, Sheet, TextField } from '../ui/index.tsx';

/** Senders, house style, lists and files: what every sequence draws on. */
export function LibraryScreen() {
  const { data: around } = useAroundQuery();
  const [change] = useChangeMutation();
  if (!around) return <p className="p-8 text-ink-2">Opening the library …</p>;
  const send =
    (url: string, method: string, pick: string[], extra: (f: FormData) => object = () => ({})) =>
    (e: FormEvent<HTMLFormElement>) => {
      e.preventDefault();
      const target = e.currentTarget;
      const form = new FormData(target);
      const values: Record<string, unknown> = {
        ...Object.fromEntries(pick.map((k) => [k, form.get(k)])),
        ...extra(form),
      };
      void change({ url, method, body: values }).then((answer) => {
        if (answer.error) return toast.error(sentence(answer.error));
        toast.success('Saved.');
        if (method === 'POST') target.reset();
      });
    };
  const senderFields = (f: FormData) => ({
    fields: Object.fromEntries<string>(
      ['phone', 'page'].map((k): [string, string] => [k, String(f.get(k) ?? '')]).filter(([, v]) => v),
    ),
  });
  return (
    <div className="flex flex-col gap-4 p-6">
      <h1 className="text-[24px] font-bold">Library</h1>
      <Sheet className="p-5">
        <h2 className="mb-3 text-[16px] font-bold">House style</h2>
        <form onSubmit={send('/style', 'PUT', ['brand', 'postalAddress', 'accent'])} className="grid grid-cols-[1fr_2fr_8rem_auto] items-end gap-3">
          <TextField label="Brand" name="brand" defaultValue={around.style.brand} />
          <TextField label="Postal address (in every footer)" name="postalAddress" defaultValue={around.style.postalAddress} />
          <TextField label="Colour of buttons" name="accent" type="color" defaultValue={around.style.accent} />
          <Button tone="main" type="submit">Save</Button>
        </form>
      </Sheet>
      <Sheet className="p-5">
        <h2 className="mb-3 text-[16px] font-bold">Senders</h2>
        {around.senders.map((s) => (
          <form key={s.id} onSubmit={send(`/senders/${s.id}`, 'PUT', ['name', 'email'], senderFields)} className="mb-3 grid grid-cols-[1fr_1.3fr_1fr_1.3fr_7rem_auto] items-end gap-3">
            <TextField label="Name" name="name" defaultValue={s.name} /><TextField label="Address" name="email" defaultValue={s.email} />
            <TextField label="Phone" name="phone" defaultValue={s.fields.phone ?? ''} /><TextField label="Page" name="page" defaultValue={s.fields.page ?? ''} />
            <span className="pb-1.5">{s.untouched ? <Chip tone="fix">To look at</Chip> : s.isDefault ? <Chip tone="live">Default</Chip> : null}</span>
            <Button type="submit">Save</Button>
          </form>
        ))}
        <form onSubmit={send('/senders', 'POST', ['name', 'email'], senderFields)} className="grid grid-cols-[1fr_1.3fr_1fr_1.3fr_7rem_auto] items-end gap-3 border-t border-line pt-3">
          <TextField label="New sender" name="name" required /><TextField label="Address" name="email" type="email" required /><TextField label="Phone" name="phone" /><TextField label="Page" name="page" /><span /><Button type="submit">Add</Button>
        </form>
      </Sheet>
      <div className="grid grid-cols-2 gap-4">
        <Sheet className="p-5">
          <h2 className="mb-3 text-[16px] font-bold">Lists</h2>
          <ul className="mb-3">{around.lists.map((l) => <li key={l.id} className="flex justify-between border-t border-line py-1.5"><b className="font-semibold">{l.name}</b><span className="text-ink-2 tabular-nums">{number(l.confirmed)} confirmed</span></li>)}</ul>
          <form onSubmit={send('/lists', 'POST', ['name'])} className="flex items-end gap-3"><TextField label="New list" name="name" required /><Button type="submit">Add</Button></form>
        </Sheet>
        <Sheet className="p-5">
          <h2 className="mb-3 text-[16px] font-bold">Files and pictures</h2>
          {around.files.length === 0 && <p className="text-ink-2">Upload from an email’s image or button; it is kept here.</p>}
          <ul>{around.files.map((f) => <li key={f.id} className="flex items-center gap-3 border-t border-line py-1.5">{f.mime.startsWith('image/') ? <img src={`/f/${f.id}`} alt="" className="h-8 w-12 rounded-[5px] object-cover" /> : <span className="flex h-8 w-12 items-center justify-center rounded-[5px] bg-slate-tint text-[11px] font-bold text-slate">{f.mime.split('/')[1]?.toUpperCase()}</span>}<span className="min-w-0 flex-1 truncate font-semibold">{f.name}</span><span className="text-ink-2 tabular-nums">{Math.max(1, Math.round(f.size / 1000))} kB{!f.mime.startsWith('image/') && ` · ${number(f.downloads)} people downloaded it`}</span></li>)}</ul>
        </Sheet>
      </div>
    </div>
  ); // prettier-ignore
}
