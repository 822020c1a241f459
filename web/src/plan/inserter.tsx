import { MailSearch, Plus } from 'lucide-react';
import type { Place, StepKind } from '@ascenso/core';
import type { MenuEntry } from '../ui/index.tsx';
import { MenuOnDemand } from '../ui/menu-on-demand.tsx';
import { stepKinds } from './step-kinds.ts';

/** The plus between steps. */
export function Inserter({
  name,
  at,
  insert,
  other,
}: {
  name: string;
  at: Place;
  insert: (kind: StepKind, at: Place) => void;
  /** An email of another sequence is wanted at a place. */
  other: (at: Place) => void;
}) {
  const entries = (): MenuEntry[] => {
    const [email, ...others] = stepKinds.map(({ kind, label, keys, icon: Icon }) => ({
      label,
      keys,
      icon: <Icon size={15} aria-hidden="true" />,
      act: () => insert(kind, at),
    }));
    const copy = {
      label: 'An email of another sequence',
      icon: <MailSearch size={15} aria-hidden="true" />,
      act: () => other(at),
    };
    return [...(email ? [email] : []), copy, ...others];
  };
  return (
    <MenuOnDemand
      name={name}
      entries={entries}
      className="flex size-6 items-center justify-center rounded-full border border-line bg-sheet text-ink-2 hover:border-spruce hover:text-spruce"
    >
      <Plus size={13} aria-hidden="true" />
    </MenuOnDemand>
  );
}
