import { createContext, useContext, useMemo, useState } from 'react';
import { OFFER_FIELDS, type MergeContext } from '@ascenso/core';
import { Dialog, inputClass } from '../ui/index.tsx';
import { fieldLabel } from './template-text.tsx';

export interface FieldChoice {
  path: string;
  label: string;
  sample: string;
}

/** Fields that this email can use, with the value of the person it is read as. */
export const FieldChoices = createContext<FieldChoice[]>([]);

export function choicesFrom(
  fields: { subscriber: readonly string[]; event: readonly string[]; sender: readonly string[] },
  context: MergeContext,
): FieldChoice[] {
  const all = { ...fields, offer: context.offer ? OFFER_FIELDS : [] };
  return (['subscriber', 'event', 'sender', 'offer'] as const).flatMap((group) =>
    all[group].map((name) => {
      const value = context[group]?.[name];
      return {
        path: `${group}.${name}`,
        label: fieldLabel(`${group}.${name}`),
        sample: value === undefined || value === null || typeof value === 'object' ? '' : String(value),
      };
    }),
  );
}

const GROUP = { subscriber: 'Reader', event: 'Event', sender: 'Sender', offer: 'Offer' };

export function FieldPicker({
  open,
  onClose,
  onPick,
}: {
  open: boolean;
  onClose: () => void;
  onPick: (path: string) => void;
}) {
  const choices = useContext(FieldChoices);
  const [q, setQ] = useState('');
  const found = useMemo(
    () => choices.filter((c) => `${c.path} ${c.label}`.toLowerCase().includes(q.toLowerCase())),
    [choices, q],
  );
  const pick = (path: string) => {
    setQ('');
    onPick(path);
  };
  return (
    <Dialog open={open} onClose={onClose} title="Merge field">
      <input
        aria-label="Find a field"
        placeholder="Find a field"
        value={q}
        onChange={(e) => setQ(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== 'Enter' || !found[0]) return;
          e.preventDefault();
          pick(found[0].path);
        }}
        className={inputClass}
        autoFocus
      />
      <ul className="mt-2 max-h-72 overflow-y-auto">
        {found.map((c) => (
          <li key={c.path}>
            <button
              type="button"
              onClick={() => pick(c.path)}
              className="flex w-full items-baseline gap-2 rounded-control px-2 py-1.5 text-left hover:bg-paper"
            >
              <span className="w-14 text-[12px] text-ink-2">{GROUP[c.path.split('.')[0] as keyof typeof GROUP]}</span>
              <span className="flex-1 font-semibold text-slate">{c.label}</span>
              <span className="max-w-40 truncate text-ink-2">{c.sample || 'no value'}</span>
            </button>
          </li>
        ))}
        {found.length === 0 && <li className="px-2 py-3 text-ink-2">No field is called that.</li>}
      </ul>
    </Dialog>
  );
}
