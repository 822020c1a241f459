import { ArrowDown, ArrowUp, Copy, Trash2, X } from 'lucide-react';
import { Button, IconButton } from '../ui/index.tsx';

/** What can be done with several steps at once, while more than one is chosen. */
export function ChosenBar({
  n,
  copy,
  move,
  remove,
  leave,
}: {
  n: number;
  copy: () => void;
  move: (by: -1 | 1) => void;
  remove: () => void;
  leave: () => void;
}) {
  const small = '!px-2.5 !py-1 text-[13px]';
  return (
    <div
      role="group"
      aria-label="Chosen steps"
      className="flex shrink-0 items-center gap-2 border-b border-line bg-spruce-tint px-5 py-1.5"
    >
      <b className="font-semibold">{n === 1 ? '1 step, with what is in it' : `${n} steps`}</b>
      <Button className={small} onClick={copy}>
        <Copy size={14} aria-hidden="true" />
        Copy
      </Button>
      <Button className={small} onClick={() => move(-1)}>
        <ArrowUp size={14} aria-hidden="true" />
        Up
      </Button>
      <Button className={small} onClick={() => move(1)}>
        <ArrowDown size={14} aria-hidden="true" />
        Down
      </Button>
      <Button className={small} onClick={remove}>
        <Trash2 size={14} aria-hidden="true" />
        Delete
      </Button>
      <span className="flex-1 text-[13px] text-ink-2">Drag them to any + of the plan, or let that + bring them.</span>
      <IconButton name="Choose one alone again" onClick={leave}>
        <X size={14} />
      </IconButton>
    </div>
  );
}
