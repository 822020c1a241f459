import { Combobox, ComboboxOption, ComboboxOptions, Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { CalendarDays } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import { listClass, optionClass } from './choice.tsx';
import { ComboInput } from './combo-input.tsx';
import { Field, inputClass } from './index.tsx';
import { dayInWords, readDay, readTime, timeInWords } from './region.ts';

const Month = lazy(() => import('./month.tsx'));

const today = () => new Date().toISOString().slice(0, 10);

/** A day, typed as the region writes it or picked from a month. `value` is `YYYY-MM-DD`, or '' for none. */
export function DayField({
  label,
  value,
  save,
  clear,
  inline,
}: {
  label: string;
  value: string;
  save: (day: string) => void;
  /** Takes the day away, where there may be none. */
  clear?: () => void;
  inline?: boolean;
}) {
  const [text, setText] = useState('');
  useEffect(() => setText(value ? dayInWords(value) : ''), [value]);
  const commit = () => {
    const day = readDay(text, value || today());
    if (clear && text.trim() === '' && value) clear();
    else if (day && day !== value) save(day);
    else setText(value ? dayInWords(value) : '');
  };
  return (
    <span className={`relative ${inline ? 'inline-block w-36 align-middle' : 'block w-full'}`}>
      <input
        aria-label={label}
        value={text}
        autoComplete="off"
        placeholder={inline ? dayInWords(today()) : `such as ${dayInWords(today())}`}
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={commit}
        onKeyDown={(e) => e.key === 'Enter' && commit()}
        className={`${inputClass} pr-8`}
      />
      <Popover className="absolute inset-y-0 right-0">
        <PopoverButton
          aria-label={`${label}: pick it from a month`}
          className="flex h-full w-8 items-center justify-center text-ink-2"
        >
          <CalendarDays size={15} aria-hidden="true" />
        </PopoverButton>
        <PopoverPanel
          anchor={{ to: 'bottom end', padding: 8 }}
          focus
          className="z-50 rounded-sheet border border-line bg-sheet p-2 shadow-sm [--anchor-gap:4px]"
        >
          {({ close }) => (
            <Suspense>
              <Month
                day={value}
                choose={(day) => {
                  save(day);
                  close();
                }}
              />
            </Suspense>
          )}
        </PopoverPanel>
      </Popover>
    </span>
  );
}

const HALF_HOURS = Array.from({ length: 48 }, (_, i) => i * 30);

/** A time of day, picked from the half hours or typed to the minute. `minute` counts from midnight. */
export function TimeField({ label, minute, save }: { label: string; minute: number; save: (minute: number) => void }) {
  const [typed, setTyped] = useState('');
  const exact = readTime(typed);
  const written = typed.trim();
  const fit = written ? HALF_HOURS.filter((m) => timeInWords(m).startsWith(written) && m !== exact) : HALF_HOURS;
  const all = exact === null ? fit : [exact, ...fit];
  return (
    <Combobox value={minute} onChange={(m: number | null) => m !== null && save(m)} onClose={() => setTyped('')}>
      <ComboInput
        aria-label={label}
        displayValue={(m: number) => timeInWords(m)}
        onChange={(e) => setTyped(e.target.value)}
        // What was typed counts when it is left, chosen from the list or not.
        onBlur={() => exact !== null && exact !== minute && save(exact)}
        className="inline-block !w-24 align-middle"
      />
      <ComboboxOptions anchor="bottom start" className={`${listClass} w-(--input-width)`}>
        {all.length === 0 && <p className="px-2.5 py-1.5 text-ink-2">Not a time of day.</p>}
        {all.map((m) => (
          <ComboboxOption key={m} value={m} className={optionClass}>
            <span className="group-data-selected:font-semibold">{timeInWords(m)}</span>
          </ComboboxOption>
        ))}
      </ComboboxOptions>
    </Combobox>
  );
}

const minuteOf = (wall: string) => Number(wall.slice(11, 13)) * 60 + Number(wall.slice(14, 16));
const two = (n: number) => String(n).padStart(2, '0');

/** A day and a time of day, side by side. `wall` is `YYYY-MM-DDTHH:mm`, in a zone that is said beside it. */
export function MomentParts({ label, wall, save }: { label: string; wall: string; save: (wall: string) => void }) {
  const minute = minuteOf(wall);
  return (
    <>
      <DayField
        inline
        label={`${label}: day`}
        value={wall.slice(0, 10)}
        save={(day) => save(day + wall.slice(10, 16))}
      />{' '}
      <TimeField
        label={`${label}: time`}
        minute={minute}
        save={(m) => save(`${wall.slice(0, 10)}T${two(Math.floor(m / 60))}:${two(m % 60)}`)}
      />
    </>
  );
}

/** A moment under its label. */
export function MomentField({ label, wall, save }: { label: string; wall: string; save: (wall: string) => void }) {
  return (
    <Field label={label}>
      {(id) => (
        <span id={id} role="group" aria-label={label} className="flex gap-2">
          <MomentParts label={label} wall={wall} save={save} />
        </span>
      )}
    </Field>
  );
}
