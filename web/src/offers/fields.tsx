import type { Offer } from '@ascenso/core';
import { Field, inputClass } from '../ui/index.tsx';
import { SavedText } from '../ui/saved-text.tsx';

/** Keeps some parts of an offer. */
export type Save = (some: Partial<Offer>) => void;

/** A text with its label that saves itself. */
export function Text({
  label,
  value,
  save,
  placeholder,
}: {
  label: string;
  value: string;
  save: (v: string) => void;
  placeholder?: string;
}) {
  return (
    <Field label={label}>
      {() => <SavedText label={label} value={value} save={save} {...(placeholder ? { placeholder } : {})} />}
    </Field>
  );
}

/** A whole number between two others; anything else is put back. */
export function Whole({
  label,
  value,
  min,
  max,
  save,
}: {
  label: string;
  value: number;
  min: number;
  max: number;
  save: (n: number) => void;
}) {
  return (
    <Field label={label}>
      {(id) => (
        <input
          id={id}
          type="number"
          min={min}
          max={max}
          defaultValue={value}
          key={value}
          onBlur={(e) => {
            const n = Math.round(Number(e.target.value));
            if (n !== value && n >= min && n <= max) save(n);
            else e.target.value = String(value);
          }}
          className={`${inputClass} tabular-nums`}
        />
      )}
    </Field>
  );
}
