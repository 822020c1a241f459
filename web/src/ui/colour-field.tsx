import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { Plus } from 'lucide-react';
import { useState } from 'react';
import { HexColorInput, HexColorPicker } from 'react-colorful';
import { Field, inputClass } from './index.tsx';

const panelClass =
  'z-50 flex flex-col gap-2 rounded-sheet border border-line bg-sheet p-3 shadow-sm [--anchor-gap:4px]';

/** Picks a colour on a field of them, or takes its hex figures. What is dragged is kept when it is let go. */
function Picker({ label, value, save }: { label: string; value: string; save: (hex: string) => void }) {
  const [hex, setHex] = useState(value);
  const keep = () => hex !== value && save(hex);
  return (
    <div className="flex flex-col gap-2" onPointerUp={keep} onKeyUp={keep}>
      <HexColorPicker color={hex} onChange={setHex} />
      <label className="flex items-center gap-2 text-[12px] text-ink-2">
        Hex
        <HexColorInput aria-label={`${label}: hex`} prefixed color={hex} onChange={setHex} className={inputClass} />
      </label>
    </div>
  );
}

/** One round swatch more beside those of the house: any other colour. */
export function OtherColour({
  label,
  value,
  own,
  save,
}: {
  label: string;
  value: string;
  /** Whether `value` is what is chosen, and not only where one would begin. */
  own: boolean;
  save: (hex: string) => void;
}) {
  return (
    <Popover className="inline-flex">
      <PopoverButton
        aria-label={`${label}: another`}
        title="Another colour"
        style={own ? { background: value } : {}}
        className={`inline-flex size-6 items-center justify-center rounded-full border text-ink-2 ${own ? 'border-spruce outline-2 outline-spruce' : 'border-line bg-sheet'}`}
      >
        {!own && <Plus size={13} aria-hidden="true" />}
      </PopoverButton>
      <PopoverPanel anchor="bottom start" focus className={panelClass}>
        <Picker label={label} value={value} save={save} />
      </PopoverPanel>
    </Popover>
  );
}

/** A colour with its hex figures, under its label. */
export function ColourField({ label, value, save }: { label: string; value: string; save: (hex: string) => void }) {
  return (
    <Field label={label}>
      {(id) => (
        <Popover>
          <PopoverButton id={id} className={`${inputClass} flex items-center gap-2 text-left`}>
            <span
              aria-hidden="true"
              style={{ background: value }}
              className="size-4 rounded-[4px] border border-line"
            />
            {value.toUpperCase()}
          </PopoverButton>
          <PopoverPanel anchor="bottom start" focus className={panelClass}>
            <Picker label={label} value={value} save={save} />
          </PopoverPanel>
        </Popover>
      )}
    </Field>
  );
}
