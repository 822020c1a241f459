import { Tag } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { LabelledKind } from '@ascenso/contracts';
import { sentence } from '../app/api.ts';
import { Button, Dialog, IconButton, inputClass } from '../ui/index.tsx';
import { useAddLabelMutation, useLabelsQuery, useSetLabelMutation } from './endpoints.ts';
import { has } from './use-labels.ts';

/** The labels of one thing, as small words, and the way to put others on it. */
export function LabelsOf({ kind, id, name }: { kind: LabelledKind; id: string; name: string }) {
  const { data } = useLabelsQuery();
  const [set] = useSetLabelMutation();
  const [add] = useAddLabelMutation();
  const [open, setOpen] = useState(false);
  const [fresh, setFresh] = useState('');
  const labels = data?.labels ?? [];
  const own = labels.filter((l) => has(l, kind, id));
  const put = async (label: string, on: boolean) => {
    const answer = await set({ label, kind, thing: id, on });
    if (answer.error) toast.error(sentence(answer.error));
  };
  const make = async () => {
    const known = labels.find((l) => l.name.toLowerCase() === fresh.trim().toLowerCase());
    const made = known ? { data: known } : await add(fresh);
    if (!made.data) return toast.error(sentence(made.error));
    setFresh('');
    await put(made.data.id, true);
  };
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      {own.map((l) => (
        <span key={l.id} className="rounded-full bg-slate-tint px-2 text-[12px] text-slate">
          {l.name}
        </span>
      ))}
      <IconButton name={`Labels of “${name}”`} onClick={() => setOpen(true)}>
        <Tag size={13} />
      </IconButton>
      <Dialog open={open} onClose={() => setOpen(false)} title={`Labels of “${name}”`}>
        <div className="flex flex-col gap-2">
          {labels.length === 0 && (
            <p className="text-ink-2">A label gathers what belongs to one undertaking, with the sums of it.</p>
          )}
          {labels.map((l) => (
            <label key={l.id} className="flex items-center gap-2">
              <input type="checkbox" checked={own.includes(l)} onChange={(e) => void put(l.id, e.target.checked)} />
              {l.name}
            </label>
          ))}
          <form
            className="flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              void make();
            }}
          >
            <input
              aria-label="Another label"
              value={fresh}
              placeholder={labels.length === 0 ? 'Spring launch' : 'Another label'}
              onChange={(e) => setFresh(e.target.value)}
              className={inputClass}
            />
            <Button type="submit" disabled={fresh.trim() === ''}>
              Add
            </Button>
          </form>
        </div>
      </Dialog>
    </span>
  );
}
