import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react';
import { ListTree, Maximize2, Minus, Plus, Search } from 'lucide-react';
import { useState } from 'react';
import { stepWords, walk, type Change, type Names, type Sequence } from '@ascenso/core';
import { Button, Dialog, IconButton, inputClass } from '../ui/index.tsx';
import { ChangeList } from './publish-dialog.tsx';

const STEPS = [0.4, 0.5, 0.65, 0.8, 1];

function FindStep({ doc, names, show }: { doc: Sequence; names: Names; show: (step: string) => void }) {
  const [q, setQ] = useState('');
  // The list gives the focus back to its field when it closes: the step takes it after that.
  const choose = (step: string | null) => step && requestAnimationFrame(() => requestAnimationFrame(() => show(step)));
  const found =
    q.trim() === ''
      ? []
      : walk(doc)
          .filter(({ step }) =>
            `${stepWords(step, names)} ${step.kind === 'email' ? step.email.subject : ''} ${step.note}`
              .toLowerCase()
              .includes(q.toLowerCase()),
          )
          .slice(0, 12);
  return (
    <Combobox value={null} onChange={choose} onClose={() => setQ('')}>
      <div className="relative w-52">
        <Search size={14} className="absolute top-2.5 left-2.5 text-ink-2" aria-hidden="true" />
        <ComboboxInput
          aria-label="Find a step"
          placeholder="Find a step"
          onChange={(e) => setQ(e.target.value)}
          className={`${inputClass} pl-8`}
        />
        <ComboboxOptions
          anchor="bottom start"
          className="z-50 max-h-72 w-80 overflow-y-auto rounded-sheet border border-line bg-sheet p-1 empty:invisible"
        >
          {found.map(({ step }) => (
            <ComboboxOption
              key={step.id}
              value={step.id}
              className="cursor-pointer truncate rounded-control px-2.5 py-1.5 data-focus:bg-paper"
            >
              {stepWords(step, names)}
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </div>
    </Combobox>
  );
}

/** What publishing would change, in one line over the plan. */
function Changes({ changes, touched }: { changes: Change[]; touched: Record<string, number> }) {
  const [open, setOpen] = useState(false);
  if (changes.length === 0) return null;
  const gone = changes.filter((c) => c.kind === 'removed');
  return (
    <>
      <Button tone="fix" onClick={() => setOpen(true)}>
        <ListTree size={15} aria-hidden="true" />
        {changes.length} changed{gone.length > 0 && `, ${gone.length} of them gone`}
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Changed since it was published" wide>
        <ChangeList changes={changes} touched={touched} />
      </Dialog>
    </>
  );
}

interface ToolsProps {
  doc: Sequence;
  names: Names;
  show: (step: string) => void;
  changes: { changes: Change[]; touched: Record<string, number> } | undefined;
  zoom: number;
  setZoom: (zoom: number) => void;
  fit: () => void;
  /** Arms that are folded, and what folds or opens all. */
  folded: number;
  openAll: () => void;
}

/** Over the plan: finding a step, seeing more or less of it, and what has changed. */
export function PlanTools({ doc, names, show, changes, zoom, setZoom, fit, folded, openAll }: ToolsProps) {
  const nearest = STEPS.reduce((a, b) => (Math.abs(b - zoom) < Math.abs(a - zoom) ? b : a));
  const step = (by: -1 | 1) =>
    setZoom(STEPS[Math.min(STEPS.length - 1, Math.max(0, STEPS.indexOf(nearest) + by))] ?? 1);
  return (
    <div className="flex shrink-0 items-center gap-2 border-b border-line bg-paper px-5 py-1.5">
      <FindStep doc={doc} names={names} show={show} />
      {changes && <Changes {...changes} />}
      <span className="flex-1" />
      {folded > 0 && (
        <Button tone="quiet" onClick={openAll}>
          Open {folded === 1 ? 'the folded lane' : `all ${folded} folded lanes`}
        </Button>
      )}
      <IconButton name="Smaller" disabled={zoom <= (STEPS[0] ?? 0)} onClick={() => step(-1)}>
        <Minus size={15} />
      </IconButton>
      <span className="w-10 text-center text-[12px] text-ink-2 tabular-nums">{Math.round(zoom * 100)}%</span>
      <IconButton name="Larger" disabled={zoom >= 1} onClick={() => step(1)}>
        <Plus size={15} />
      </IconButton>
      <IconButton name="Fit the whole plan in" onClick={fit}>
        <Maximize2 size={15} />
      </IconButton>
    </div>
  );
}
