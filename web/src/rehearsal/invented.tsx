import { Plus, X } from 'lucide-react';
import { useState } from 'react';
import { placeWords, type Value } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useAct } from '../app/store.ts';
import { Button, Dialog, IconButton, TextField } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';
import { rehearse, type Invented } from './rehearsing.ts';
import { ZoneChoice } from '../ui/zone-choice.tsx';
import { ValueField } from '../ui/value-field.tsx';

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
        const put = (v: Value) =>
          set({
            ...invented,
            attributes: { ...invented.attributes, [key]: v === null || Array.isArray(v) ? '' : v },
          });
        return (
          <div key={key} className="flex items-end gap-1">
            <ValueField
              label={attribute?.label ?? key}
              kind={attribute ?? { type: 'text', options: [] }}
              value={value}
              save={put}
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
        <span className="flex items-center gap-2 text-ink-2">
          <Plus size={14} aria-hidden="true" />
          <Choice
            label="Give them a value for"
            hideLabel
            value=""
            none="Give them a value for …"
            choose={(v) => set({ ...invented, attributes: { ...invented.attributes, [v]: '' } })}
            of={free.map((a) => ({ value: a.key, label: a.label }))}
          />
        </span>
      )}
    </>
  );
}

/** Somebody made up: a name, a zone, tags and attributes, behind the name. */
export function InventedPerson({ invented, around }: { invented: Invented; around: Surroundings }) {
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
          <ZoneChoice label="Time zone" zone={invented.zone} save={(zone) => set({ ...invented, zone })} />
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
