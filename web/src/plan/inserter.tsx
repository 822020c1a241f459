import { memo } from 'react';
import { MailSearch, MoveDown, Plus } from 'lucide-react';
import { plainNames, stepWords, type Names, type Place, type Step, type StepKind } from '@ascenso/core';
import type { MenuEntry } from '../ui/index.tsx';
import { MenuOnDemand } from '../ui/menu-on-demand.tsx';
import { StepPlace, useTakenSteps } from './dragging.tsx';
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
  /** The place behind a step, as the plan is now. */
  after: (step: string) => Place;
  /** The steps that are chosen, as far as they can be brought to a place. */
  moving: (at: Place) => readonly Step[];
  moveHere: (at: Place) => void;
}

/** The plus between steps. It asks for its place when it is used: it need not be drawn anew since steps above it come and go. */
export function Inserter({ name, place, hands }: { name: string; place: () => Place; hands: InserterHands }) {
  const entries = (): MenuEntry[] => {
    const at = place();
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
  const dragged = useTakenSteps().size > 0;
  return (
    <span className="relative block">
      {dragged && <StepPlace at={place()} />}
      <MenuOnDemand
        name={name}
        entries={entries}
        className="flex size-6 items-center justify-center rounded-full border border-line bg-sheet text-ink-2 hover:border-spruce hover:text-spruce"
      >
        <Plus size={13} aria-hidden="true" />
      </MenuOnDemand>
    </span>
  );
}

/** The plus behind a step. */
export const InserterAfter = memo(function InserterAfter({
  step,
  names,
  hands,
}: {
  step: Step;
  names: Names;
  hands: InserterHands;
}) {
  return <Inserter name={`Insert after ${stepWords(step, names)}`} place={() => hands.after(step.id)} hands={hands} />;
});
