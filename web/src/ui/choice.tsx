import {
  Combobox,
  ComboboxOption,
  ComboboxOptions,
  Listbox,
  ListboxButton,
  ListboxOption,
  ListboxOptions,
} from '@headlessui/react';
import { Check, ChevronDown } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { ComboInput } from './combo-input.tsx';
import { Field, inputClass } from './index.tsx';

export interface Option<V> {
  value: V;
  label: string;
  /** Words in small print: what it is, a sample of its values. */
  note?: string;
  /** The heading it stands under; those of one group follow each other. */
  group?: string;
  /** Address of a picture of it. */
  picture?: string;
  disabled?: boolean;
}

/** From so many things on, one looks for the one by typing. */
const SEARCHED_FROM = 13;

export const listClass =
  'z-50 max-h-72 min-w-(--button-width) max-w-96 overflow-y-auto rounded-sheet border border-line bg-sheet p-1 shadow-sm [--anchor-gap:4px]';
export const optionClass =
  'group flex w-full cursor-pointer items-center gap-2 rounded-control px-2.5 py-1.5 text-left data-disabled:cursor-default data-disabled:opacity-40 data-focus:bg-paper';

function Face({ of }: { of: Option<unknown> }) {
  return (
    <>
      {of.picture && <img src={of.picture} alt="" className="h-8 w-11 rounded-[4px] border border-line object-cover" />}
      <span className="min-w-0 flex-1">
        <span className="block group-data-selected:font-semibold">{of.label}</span>
        {of.note && <span className="block text-[12px] text-ink-2">{of.note}</span>}
      </span>
      <Check size={14} aria-hidden="true" className="invisible text-spruce group-data-selected:visible" />
    </>
  );
}

const named = (o: Option<unknown>) => ({ 'aria-label': o.label, ...(o.note ? { 'aria-description': o.note } : {}) });

function Heading({ text }: { text: string }) {
  return (
    <p role="presentation" className="px-2.5 pt-2 pb-0.5 text-[12px] text-ink-2">
      {text}
    </p>
  );
}

/** Options with the heading of each group above its first. */
const grouped = <V,>(of: readonly Option<V>[], option: (o: Option<V>) => ReactNode) =>
  of.flatMap((o, i) => [
    ...(o.group && o.group !== of[i - 1]?.group ? [<Heading key={`group ${o.group}`} text={o.group} />] : []),
    option(o),
  ]);

interface Choosing<V extends string | number> {
  label: string;
  value: V;
  of: readonly Option<V>[];
  choose: (value: V) => void;
  /** What stands there while `value` is none of them. */
  none?: string;
  /** It stands in a sentence, as wide as what is chosen. */
  inline?: boolean;
  className?: string;
  /** The name by which checks lead to it. */
  part?: string;
  disabled?: boolean;
  /** Its name in a form that is sent. */
  name?: string;
}

const frameOf = ({ inline, className = '' }: { inline?: boolean; className?: string }) =>
  inline
    ? `relative inline-block max-w-full align-middle ${className}`
    : `relative block ${/\bw-/.test(className) ? '' : 'w-full '}${className}`;

function Short<V extends string | number>({ id, ...c }: Choosing<V> & { id?: string }) {
  const chosen = c.of.find((o) => o.value === c.value);
  return (
    <Listbox {...(c.name ? { name: c.name } : {})} value={c.value} onChange={c.choose} disabled={c.disabled ?? false}>
      <span className={frameOf(c)}>
        <ListboxButton
          {...(id ? { id } : {})}
          role="combobox"
          aria-label={c.label}
          data-part={c.part}
          className={`${inputClass} flex items-center gap-1.5 text-left`}
        >
          <span className={`min-w-0 flex-1 truncate ${chosen ? '' : 'text-ink-2'}`}>{chosen?.label ?? c.none}</span>
          <ChevronDown size={14} aria-hidden="true" className="shrink-0 text-ink-2" />
        </ListboxButton>
      </span>
      <ListboxOptions anchor="bottom start" className={listClass}>
        {grouped(c.of, (o) => (
          <ListboxOption
            key={o.value}
            value={o.value}
            disabled={o.disabled ?? false}
            className={optionClass}
            {...named(o)}
          >
            <Face of={o} />
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  );
}

function Searched<V extends string | number>({ id, ...c }: Choosing<V> & { id?: string }) {
  const [typed, setTyped] = useState('');
  const words = typed.trim().toLowerCase();
  const found = words
    ? c.of.filter((o) => `${o.label} ${o.note ?? ''} ${o.group ?? ''}`.toLowerCase().includes(words))
    : c.of;
  const labels = new Map(c.of.map((o) => [o.value, o.label]));
  return (
    <Combobox
      {...(c.name ? { name: c.name } : {})}
      value={c.value}
      onChange={(v: V | null) => v !== null && c.choose(v)}
      onClose={() => setTyped('')}
      disabled={c.disabled ?? false}
    >
      <span className={frameOf(c)}>
        <ComboInput
          arrow
          {...(id ? { id } : {})}
          aria-label={c.label}
          data-part={c.part}
          placeholder={c.none}
          displayValue={(v: V) => labels.get(v) ?? ''}
          onChange={(e) => setTyped(e.target.value)}
        />
      </span>
      <ComboboxOptions anchor="bottom start" className={`${listClass} w-(--input-width)`}>
        {found.length === 0 && <p className="px-2.5 py-1.5 text-ink-2">Nothing is called that.</p>}
        {grouped(found, (o) => (
          <ComboboxOption
            key={o.value}
            value={o.value}
            disabled={o.disabled ?? false}
            className={optionClass}
            {...named(o)}
          >
            <Face of={o} />
          </ComboboxOption>
        ))}
      </ComboboxOptions>
    </Combobox>
  );
}

/** One of some things: opened and read where they are few, found by typing where they are many. */
export function Choice<V extends string | number>({ hideLabel, ...c }: Choosing<V> & { hideLabel?: boolean }) {
  const Of = c.of.length < SEARCHED_FROM ? Short : Searched;
  return hideLabel ? <Of {...c} /> : <Field label={c.label}>{(id) => <Of {...c} id={id} />}</Field>;
}
