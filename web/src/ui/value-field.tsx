import type { AttributeRow } from '@ascenso/contracts';
import type { Value } from '@ascenso/core';
import { Choice } from './choice.tsx';
import { Field } from './index.tsx';
import { DayField } from './moment-field.tsx';
import { SavedText } from './saved-text.tsx';

type Kind = Pick<AttributeRow, 'type' | 'options'>;

/** A value as it is typed. */
const textOf = (v: Value | undefined): string =>
  v === null || v === undefined
    ? ''
    : typeof v === 'boolean'
      ? v
        ? 'yes'
        : 'no'
      : Array.isArray(v)
        ? v.join(', ')
        : String(v);

/** What was typed, as its kind takes it; a figure that is none goes as it is, and is refused by name. */
function valueTyped({ type }: Kind, text: string): Value {
  if (text === '') return null;
  if (type === 'number') return Number.isNaN(Number(text)) ? text : Number(text);
  if (type === 'yes-no') return text === 'yes';
  if (type === 'list')
    return text
      .split(',')
      .map((t) => t.trim())
      .filter(Boolean);
  return text;
}

/** The value of an attribute, taken by the control that fits its kind; nothing is null. */
export function ValueField({
  label,
  kind,
  value,
  save,
  hideLabel = false,
}: {
  label: string;
  kind: Kind;
  value: Value | undefined;
  save: (value: Value) => void;
  hideLabel?: boolean;
}) {
  const text = textOf(value);
  const take = (typed: string) => save(valueTyped(kind, typed));
  const { type, options } = kind;
  if (type === 'yes-no' || options.length > 0) {
    const all = type === 'yes-no' ? ['yes', 'no'] : options;
    // A value of before its kind was changed stays until another is chosen.
    const known = text === '' || all.includes(text) ? all : [text, ...all];
    return (
      <Choice
        label={label}
        hideLabel={hideLabel}
        value={text}
        choose={take}
        of={[{ value: '', label: 'no value' }, ...known.map((o) => ({ value: o, label: o }))]}
      />
    );
  }
  const control =
    type === 'date' ? (
      <DayField label={label} value={text.slice(0, 10)} save={take} clear={() => save(null)} />
    ) : (
      <SavedText label={label} value={text} placeholder="no value" save={(typed) => take(typed.trim())} />
    );
  return hideLabel ? control : <Field label={label}>{() => control}</Field>;
}
