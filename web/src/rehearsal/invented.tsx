import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { isZone, placeWords, zoneNames } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useAct } from '../app/store.ts';
import { Button, Dialog, IconButton, inputClass, TextField } from '../ui/index.tsx';
import { rehearse, type Invented } from './rehearsing.ts';

/** A typed text as the attribute's type takes it. */
function valueOf(type: string | undefined, text: string): string | number | boolean {
  if (type === 'number' && text.trim() !== '' && !Number.isNaN(Number(text))) return Number(text);
  return type === 'yes-no' ? text === 'yes' : text;
}

function Attributes({
  invented,
  around,
  set,
}: {
  invented: Invented;
  around: Surroundings;
  set: (i: Invented) => void;
}) {
  const { first_name: _, time_zone: __, ...shown } = invented.attributes;
  const free = around.attributes.filter(
    (a) => !Object.hasOwn(shown, a.key) && a.key !== 'first_name' && a.key !== 'time_zone',
  );
  return (
    <>
      {Object.entries(shown).map(([key, value]) => {
        const attribute = around.attributes.find((a) => a.key === key);
        const { [key]: ___, ...others } = invented.attributes;
        return (
          <div key={key} className="flex items-end gap-1">
            <TextField
              label={attribute?.label ?? key}
              type={attribute?.type === 'date' ? 'date' : 'text'}
              value={typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)}
              onChange={(e) =>
                set({
                  ...invented,
                  attributes: { ...invented.attributes, [key]: valueOf(attribute?.type, e.target.value) },
                })
              }
            />
            <IconButton
              name={`Take ${attribute?.label ?? key} away`}
              onClick={() => set({ ...invented, attributes: others })}
            >
              <X size={14} />
            </IconButton>
          </div>
        );
      })}
      {free.length > 0 && (
        <label className="flex items-center gap-2 text-ink-2">
          <Plus size={14} aria-hidden="true" />
          <span className="sr-only">Give them a value for</span>
          <select
            value=""
            onChange={(e) => set({ ...invented, attributes: { ...invented.attributes, [e.target.value]: '' } })}
            className={inputClass}
          >
            <option value="">Give them a value for …</option>
            {free.map((a) => (
              <option key={a.key} value={a.key}>
                {a.label}
              </option>
            ))}
          </select>
        </label>
      )}
    </>
  );
}

/** Somebody made up: a name, a zone, tags and attributes, behind the name. */
export function InventedPerson({
  invented,
  around,
  homeZone,
}: {
  invented: Invented;
  around: Surroundings;
  homeZone: string;
}) {
  const dispatch = useAct();
  const [open, setOpen] = useState(false);
  const set = (next: Invented) => dispatch(rehearse({ invented: next }));
  return (
    <span className="inline-flex items-center gap-1">
      <button
        type="button"
        onClick={() => setOpen(true)}
        className="border-b border-dotted border-spruce font-semibold text-spruce-deep"
      >
        {invented.name || 'Somebody'}, invented, in {placeWords(invented.zone)}
      </button>
      <IconButton name="Somebody real instead" onClick={() => dispatch(rehearse({ invented: null }))}>
        <X size={14} />
      </IconButton>
      <Dialog open={open} onClose={() => setOpen(false)} title="Somebody invented">
        <div className="flex flex-col gap-3">
          <TextField
            label="First name"
            value={invented.name}
            onChange={(e) => set({ ...invented, name: e.target.value })}
          />
          <label className="flex flex-col gap-1">
            <span className="text-[12px] text-ink-2">Time zone</span>
            <select
              value={invented.zone}
              onChange={(e) => isZone(e.target.value) && set({ ...invented, zone: e.target.value })}
              className={inputClass}
            >
              {[...new Set([homeZone, ...zoneNames])].map((z) => (
                <option key={z}>{z}</option>
              ))}
            </select>
          </label>
          <TextField
            label="Tags, with commas between"
            value={invented.tags.join(', ')}
            placeholder="kit-owner, teacher"
            onChange={(e) =>
              set({
                ...invented,
                tags: e.target.value
                  .split(',')
                  .map((t) => t.trimStart())
                  .filter((t, i, all) => t !== '' || i === all.length - 1),
              })
            }
          />
          <Attributes invented={invented} around={around} set={set} />
          <p className="text-[12px] text-ink-2">On every list that the sequence needs, and nothing done before.</p>
          <Button tone="main" className="self-end" onClick={() => setOpen(false)}>
            Rehearse with them
          </Button>
        </div>
      </Dialog>
    </span>
  );
}
