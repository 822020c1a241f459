import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { minuteWords, windowWords, zoneNames, type SendWindow } from '@ascenso/core';
import { Button } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

const DAYS = [
  [1, 'Mon'],
  [2, 'Tue'],
  [3, 'Wed'],
  [4, 'Thu'],
  [5, 'Fri'],
  [6, 'Sat'],
  [0, 'Sun'],
] as const;
const hours = (from: number, to: number) => Array.from({ length: (to - from) / 30 + 1 }, (_, i) => from + i * 30);

/** Weekdays to choose from, Monday first. */
export function WeekdayButtons({
  days,
  save,
  label,
}: {
  days: number[];
  save: (days: number[]) => void;
  label: string;
}) {
  return (
    <fieldset>
      <legend className="mb-1.5 text-[12px] text-ink-2">{label}</legend>
      <div className="flex gap-1">
        {DAYS.map(([d, name]) => (
          <button
            key={d}
            type="button"
            aria-pressed={days.includes(d)}
            onClick={() => save(days.includes(d) ? days.filter((k) => k !== d) : [...days, d])}
            className={`h-7 flex-1 rounded-control border text-[12px] leading-none ${days.includes(d) ? 'border-spruce bg-spruce-tint font-semibold text-spruce-deep' : 'border-line text-ink-2'}`}
          >
            {name}
          </button>
        ))}
      </div>
    </fieldset>
  );
}

/** The part of a step's sentence that says when it may go out, and what opens when it is clicked. */
export function WindowParts({
  window: value,
  save,
}: {
  window: SendWindow | null;
  save: (w: SendWindow | null) => void;
}) {
  const w = value ?? { days: [0, 1, 2, 3, 4, 5, 6], from: 0, to: 1440 };
  const set = (part: Partial<SendWindow>) => {
    const next = { ...w, ...part };
    if (!next.zone) delete next.zone;
    if (next.days.length > 0 && next.from !== next.to)
      save(next.days.length === 7 && next.from === 0 && next.to === 1440 ? null : next);
  };
  return (
    <Popover className="inline">
      <PopoverButton className="border-b border-dotted border-spruce font-semibold text-spruce-deep">
        {windowWords(value)}
      </PopoverButton>
      <PopoverPanel
        anchor="bottom end"
        className="z-50 flex w-72 flex-col gap-3 rounded-sheet border border-line bg-sheet p-4 shadow-sm [--anchor-gap:6px]"
      >
        <WeekdayButtons days={w.days} save={(days) => set({ days })} label="Weekdays on which it may go out" />
        <div className="flex gap-3">
          <Choice
            label="From"
            value={w.from}
            choose={(v) => set({ from: Number(v) })}
            of={hours(0, 1410).map((m) => ({ value: m, label: minuteWords(m) }))}
          />
          <Choice
            label="Until"
            value={w.to}
            choose={(v) => set({ to: Number(v) })}
            of={hours(30, 1440).map((m) => ({ value: m, label: minuteWords(m) }))}
          />
        </div>
        {value && (
          <Choice
            label="By whose clock"
            value={w.zone ?? ''}
            choose={(v) => set({ zone: v })}
            of={[{ value: '', label: 'the reader’s own zone' }, ...zoneNames.map((z) => ({ value: z, label: z }))]}
          />
        )}
        <Button onClick={() => save(null)}>Any day, any hour</Button>
      </PopoverPanel>
    </Popover>
  );
}
