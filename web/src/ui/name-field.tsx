import { Combobox, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { useState } from 'react';
import { listClass, optionClass } from './choice.tsx';
import { ComboInput } from './combo-input.tsx';

/** A name that is known, or a new one: typed, or picked from those that fit. It saves itself on Enter and when it is left. */
export function NameField({
  id,
  label,
  value,
  of,
  save,
  placeholder,
}: {
  id?: string;
  label: string;
  value: string;
  of: readonly string[];
  save: (name: string) => void;
  placeholder?: string | undefined;
}) {
  /** What is being typed; null while nothing is. */
  const [typed, setTyped] = useState<string | null>(null);
  const name = typed?.trim() ?? '';
  const known = of.filter((n) => n.toLowerCase().includes(name.toLowerCase()));
  const isNew = name !== '' && !of.includes(name);
  const keep = (next: string) => {
    setTyped(null);
    if (next !== value) save(next);
  };
  return (
    <Combobox value={value} onChange={(n: string | null) => n !== null && keep(n)}>
      <ComboInput
        {...(id ? { id } : {})}
        aria-label={label}
        placeholder={placeholder}
        displayValue={(n: string) => n}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => typed !== null && keep(name)}
      />
      {(isNew || known.length > 0) && (
        <ComboboxOptions anchor="bottom start" className={`${listClass} w-(--input-width)`}>
          {isNew && (
            <ComboboxOption value={name} className={optionClass}>
              New: “{name}”
            </ComboboxOption>
          )}
          {known.map((n) => (
            <ComboboxOption key={n} value={n} className={optionClass}>
              <span className="group-data-selected:font-semibold">{n}</span>
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      )}
    </Combobox>
  );
}
