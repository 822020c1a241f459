import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { EventKindRow, FieldUse } from '@ascenso/contracts';
import { sentence } from '../app/api.ts';
import { useChangeKindMutation, useFieldUsesQuery } from './kind-endpoints.ts';
import { Button, Chip, Dialog, IconButton, inputClass, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

const TYPES: Record<EventKindRow['fields'][number]['type'], string> = {
  text: 'text',
  number: 'number',
  date: 'date',
  'yes-no': 'yes or no',
  list: 'list',
};

/** Where a field is used, by sequence. */
function Uses({ uses }: { uses: readonly FieldUse[] }) {
  if (uses.length === 0) return <span className="text-[13px] text-ink-2">used nowhere</span>;
  const ids = [...new Set(uses.map((u) => u.sequence.id))];
  return (
    <ul className="text-[13px] text-ink-2">
      {ids.map((id) => {
        const own = uses.filter((u) => u.sequence.id === id);
        return (
          <li key={id}>
            <Link to={`/sequences/${id}`} className="underline">
              {own[0]?.sequence.name}
            </Link>
            : {own.map((u) => u.where).join(', ')} {own.some((u) => u.live) && <Chip tone="live">live</Chip>}
          </li>
        );
      })}
    </ul>
  );
}

/** One kind of event, changed in its place: what it is called, its fields with their types, and its sample. */
export function KindDialog({ kind, onClose }: { kind: EventKindRow; onClose: () => void }) {
  const [label, setLabel] = useState(kind.label);
  const [fields, setFields] = useState(kind.fields);
  const [sample, setSample] = useState(JSON.stringify(kind.sample, null, 2));
  const [broken, setBroken] = useState(false);
  const { data } = useFieldUsesQuery(kind.name, { refetchOnMountOrArgChange: true });
  const [change, { error, isLoading }] = useChangeKindMutation();
  const usesOf = (name: string) => data?.uses.filter((u) => u.field === name) ?? [];
  const put = (i: number, part: Partial<(typeof fields)[number]>) =>
    setFields(fields.map((f, n) => (n === i ? { ...f, ...part } : f)));
  const save = async () => {
    let read: Record<string, unknown>;
    try {
      read = JSON.parse(sample || '{}') as Record<string, unknown>;
    } catch {
      return setBroken(true);
    }
    setBroken(false);
    const answer = await change({ name: kind.name, body: { label, fields, sample: read } });
    if (answer.error) return;
    toast.success(`“${label}” is changed.`);
    onClose();
  };
  return (
    <Dialog open onClose={onClose} title={kind.name} wide>
      <div className="flex flex-col gap-4">
        <TextField label="Called" value={label} onChange={(e) => setLabel(e.target.value)} />
        <section>
          <h3 className="mb-1 font-sans font-semibold">Fields</h3>
          <ul className="flex flex-col gap-2">
            {fields.map((f, i) => {
              const uses = usesOf(f.name);
              return (
                <li key={i} className="flex flex-wrap items-center gap-2">
                  <input
                    aria-label={`Name of field ${i + 1}`}
                    value={f.name}
                    onChange={(e) => put(i, { name: e.target.value })}
                    className={`${inputClass} !w-44`}
                  />
                  <span className="w-32">
                    <Choice
                      label={`Type of ${f.name || `field ${i + 1}`}`}
                      hideLabel
                      value={f.type}
                      choose={(v) => put(i, { type: v as typeof f.type })}
                      of={Object.entries(TYPES).map(([type, words]) => ({ value: type, label: words }))}
                    />
                  </span>
                  <span className="min-w-0 flex-1">
                    <Uses uses={uses} />
                  </span>
                  <IconButton
                    name={
                      uses.length > 0 ? `${f.name} is used: take it out there first` : `Take ${f.name || 'it'} away`
                    }
                    disabled={uses.length > 0}
                    onClick={() => setFields(fields.filter((_, n) => n !== i))}
                  >
                    <X size={14} />
                  </IconButton>
                </li>
              );
            })}
          </ul>
          <Button tone="quiet" className="mt-2" onClick={() => setFields([...fields, { name: '', type: 'text' }])}>
            <Plus size={14} aria-hidden="true" />
            Add a field
          </Button>
        </section>
        <label className="flex flex-col gap-1 text-[12px] text-ink-2">
          Sample: what previews show where no real event is chosen
          <textarea
            rows={7}
            value={sample}
            onChange={(e) => setSample(e.target.value)}
            aria-invalid={broken || undefined}
            className={`${inputClass} font-mono text-[13px]`}
          />
        </label>
        {broken && (
          <p role="alert" className="font-semibold text-brick">
            The sample is no JSON: check brackets, commas and quotes.
          </p>
        )}
        {error && (
          <p role="alert" className="font-semibold text-brick">
            {sentence(error)}
          </p>
        )}
        {kind.learned && (
          <p className="text-ink-2">
            This kind was learned from what arrived. Saved, it is declared: what does not fit its types is refused from
            then on.
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button tone="main" disabled={isLoading} onClick={() => void save()}>
            Save
          </Button>
        </div>
      </div>
    </Dialog>
  );
}
