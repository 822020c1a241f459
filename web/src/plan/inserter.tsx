import { MailSearch, MoveDown, Plus } from 'lucide-react';
import { plainNames, stepWords, type Place, type Step, type StepKind } from '@ascenso/core';
import type { MenuEntry } from '../ui/index.tsx';
import { MenuOnDemand } from '../ui/menu-on-demand.tsx';
import { useStepPlace } from './dragging.tsx';
import { stepKinds } from './step-kinds.ts';

const shortWords = (step: Step): string => {
  const words = stepWords(step, plainNames);
  return words.length > 24 ? `${words.slice(0, 23)}…` : words;
};

/** What a plus reaches for. */
export interface InserterHands {
  insert: (kind: StepKind, at: Place) => void;
  /** An email of another sequence is wanted at a place. */
  other: (at: Place) => void;
  /** The steps that are chosen, as far as they can be brought to a place. */
  moving: (at: Place) => readonly Step[];
  moveHere: (at: Place) => void;
}

/** The plus between steps. */
export function Inserter({ name, at, hands }: { name: string; at: Place; hands: InserterHands }) {
  const entries = (): MenuEntry[] => {
    const [email, ...others] = stepKinds.map(({ kind, label, keys, icon: Icon }) => ({
      label,
      keys,
      icon: <Icon size={15} aria-hidden="true" />,
      act: () => hands.insert(kind, at),
    }));
    const copy = {
      label: 'An email of another sequence',
      icon: <MailSearch size={15} aria-hidden="true" />,
      act: () => hands.other(at),
    };
    const [first, ...more] = hands.moving(at);
    const here = first && {
      label: more.length > 0 ? `Bring the ${more.length + 1} chosen steps here` : `Bring “${shortWords(first)}” here`,
      icon: <MoveDown size={15} aria-hidden="true" />,
      act: () => hands.moveHere(at),
    };
    return [...(email ? [email] : []), copy, ...others, ...(here ? [here] : [])];
  };
  const { ref, isOver } = useStepPlace(at);
  return (
    <span ref={ref} className="relative block">
      {isOver && <span className="absolute top-1/2 left-1/2 h-1 w-72 -translate-1/2 rounded-full bg-spruce" />}
      <MenuOnDemand
        name={name}
        entries={entries}
        className={`relative flex size-6 items-center justify-center rounded-full border hover:border-spruce hover:text-spruce ${isOver ? 'border-spruce bg-spruce text-white' : 'border-line bg-sheet text-ink-2'}`}
      >
        <Plus size={13} aria-hidden="true" />
      </MenuOnDemand>
    </span>
  );
}
