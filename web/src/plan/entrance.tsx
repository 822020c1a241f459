import type { CSSProperties } from 'react';
import { DoorOpen, Flag, Plus, UserPlus, type LucideIcon } from 'lucide-react';
import { describe, triggersWords, type Condition, type Names, type Sequence } from '@ascenso/core';
import { LEFT } from './step-box.tsx';

const TONES = {
  starts: 'bg-dawn-tint text-dawn-text',
  goal: 'bg-spruce-tint text-spruce-deep',
  leaves: 'bg-plum-tint text-plum',
} as const;

/** One of the words at the top of the plan; each opens the settings of how a sequence starts and ends. */
function Sign({
  tone,
  icon: Icon,
  words,
  title,
  ...rest
}: {
  tone: keyof typeof TONES;
  icon: LucideIcon;
  words: string;
  title?: string;
  onClick: () => void;
  'data-step'?: string;
  'aria-pressed'?: boolean;
}) {
  return (
    <button
      type="button"
      title={title ?? words}
      className={`flex h-7 max-w-[var(--sign)] min-w-0 items-center gap-1.5 rounded-control px-2.5 font-semibold ${TONES[tone]} ${rest['aria-pressed'] ? 'ring-2 ring-current' : ''}`}
      {...rest}
    >
      <Icon size={14} className="shrink-0" aria-hidden="true" />
      <span className="truncate">{words}</span>
    </button>
  );
}

const whoever = (c: Condition, names: Names) => `whoever ${describe(c, names)}`;

/** What starts a sequence, its goal and who leaves it early: the line at the top of the plan. */
export function Entrance({
  doc,
  names,
  selected,
  changed,
  open,
}: {
  doc: Sequence;
  names: Names;
  selected: boolean;
  changed: boolean;
  /** Shows the settings, at the part of that id. */
  open: (part?: 'goal' | 'exit') => void;
}) {
  return (
    <div
      className="absolute flex items-center gap-2"
      // Three of them stand beside each other at 1280 px.
      style={{ left: LEFT, top: 10, '--sign': doc.exit ? '270px' : '340px' } as CSSProperties}
    >
      <Sign
        tone="starts"
        icon={UserPlus}
        words={triggersWords(doc.triggers, names)}
        data-step="trigger"
        aria-pressed={selected}
        onClick={() => open()}
      />
      {changed && <span className="rounded-full bg-ochre-tint px-2 text-[11px] text-ochre-text">changed</span>}
      {doc.goal ? (
        <Sign
          tone="goal"
          icon={Flag}
          words={`Goal: ${whoever(doc.goal, names)}`}
          title={`Goal: ${whoever(doc.goal, names)} leaves at once`}
          onClick={() => open('goal')}
        />
      ) : (
        <button
          type="button"
          className="flex h-7 shrink-0 items-center gap-1 rounded-control px-2 font-semibold text-spruce hover:bg-spruce-tint"
          onClick={() => open('goal')}
        >
          <Plus size={14} aria-hidden="true" />
          Add a goal
        </button>
      )}
      {doc.exit && (
        <Sign
          tone="leaves"
          icon={DoorOpen}
          words={`Leaves early: ${whoever(doc.exit, names)}`}
          onClick={() => open('exit')}
        />
      )}
    </div>
  );
}
