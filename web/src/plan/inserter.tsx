import { Plus } from 'lucide-react';
import type { Place, StepKind } from '@ascenso/core';
import { ActionMenu, type MenuEntry } from '../ui/index.tsx';
import { stepKinds } from './step-kinds.ts';

/** The plus between steps. */
export function Inserter({
  name,
  at,
  insert,
}: {
  name: string;
  at: Place;
  insert: (kind: StepKind, at: Place) => void;
}) {
  const entries: MenuEntry[] = stepKinds.map(({ kind, label, keys, icon: Icon }) => ({
    label,
    keys,
    icon: <Icon size={15} aria-hidden="true" />,
    act: () => insert(kind, at),
  }));
  return (
    <ActionMenu
      name={name}
      entries={entries}
      className="flex size-6 items-center justify-center rounded-full border border-line bg-sheet text-ink-2 hover:border-spruce hover:text-spruce"
    >
      <Plus size={13} aria-hidden="true" />
    </ActionMenu>
  );
}
