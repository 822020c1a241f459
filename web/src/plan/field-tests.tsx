import { Plus, X } from 'lucide-react';
import { operators, type FieldTest } from '@ascenso/core';
import { Button, IconButton, inputClass } from '../ui/index.tsx';

interface Choice {
  name: string;
  type: string;
}

const forType = (type: string | undefined) =>
  operators.filter((o) => (type === 'number' ? o !== 'contains' : o !== 'over' && o !== 'under'));

/** Tests on the fields of an event: "total over 25". */
export function FieldTests({
  tests,
  fields,
  save,
}: {
  tests: FieldTest[];
  fields: Choice[];
  save: (t: FieldTest[]) => void;
}) {
  const set = (i: number, part: Partial<FieldTest>) => save(tests.map((t, k) => (k === i ? { ...t, ...part } : t)));
  const parse = (field: string, text: string) =>
    fields.find((f) => f.name === field)?.type === 'number' && text !== '' && !Number.isNaN(Number(text))
      ? Number(text)
      : text;
  return (
    <div className="flex flex-col gap-1.5">
      {tests.map((t, i) => (
        <div key={i} className="flex items-center gap-1">
          <select aria-label="Field" value={t.field} onChange={(e) => set(i, { field: e.target.value })} className={inputClass}>{fields.map((f) => <option key={f.name}>{f.name}</option>)}</select>
          <select aria-label="Comparison" value={t.op} onChange={(e) => set(i, { op: e.target.value as FieldTest['op'] })} className={inputClass}>{forType(fields.find((f) => f.name === t.field)?.type).map((o) => <option key={o}>{o}</option>)}</select>
          {t.op !== 'is set' && t.op !== 'is not set' && <input aria-label="Value" value={String(t.value ?? '')} onChange={(e) => set(i, { value: parse(t.field, e.target.value) })} className={inputClass} />}
          <IconButton name="Take this test out" onClick={() => save(tests.filter((_, k) => k !== i))}><X size={14} /></IconButton>
        </div>
      ))}
      {fields.length > 0 && <Button tone="quiet" className="self-start" onClick={() => save([...tests, { field: fields[0]?.name ?? '', op: fields[0]?.type === 'number' ? 'over' : 'is', value: fields[0]?.type === 'number' ? 0 : '' }])}><Plus size={14} aria-hidden="true" />Only if …</Button>}
    </div>
  ); // prettier-ignore
}
