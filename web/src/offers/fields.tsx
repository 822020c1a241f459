import type { Offer } from '@ascenso/core';
import { Field } from '../ui/index.tsx';
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
