import { minuteWords, MONTHS, startingEvents, type WaitAt, type WaitStep } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useAroundQuery } from '../app/api.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { inputClass } from '../ui/index.tsx';
import { PeriodParts } from './period-parts.tsx';
import { WeekdayButtons } from './window-parts.tsx';
import { OneOf } from '../ui/one-of.tsx';
import { DaysFrom } from './days-from.tsx';

const inline = `${inputClass} inline-block`;
const NINE = 540;

const blank: Record<WaitAt['kind'], WaitAt> = {
  weekday: { kind: 'weekday', days: [1], minute: NINE },
  'day-of-year': { kind: 'day-of-year', month: 1, day: 1, minute: NINE },
  date: { kind: 'date', field: '', days: -7, minute: NINE, passed: 'leave' },
};

export function TimeOfDay({ minute, save }: { minute: number; save: (minute: number) => void }) {
  return (
    <select
      aria-label="Time of day"
      value={minute}
      onChange={(e) => save(Number(e.target.value))}
      className={`${inline} !w-24`}
    >
      {[...new Set([minute, ...Array.from({ length: 48 }, (_, i) => i * 30)])]
        .sort((a, b) => a - b)
        .map((m) => (
          <option key={m} value={m}>
            {minuteWords(m)}
          </option>
        ))}
    </select>
  );
}

/** Dates that a wait can be reckoned from: of the person, and of the event that starts the sequence. */
function datesFor(around: Surroundings, events: string[]): { field: string; label: string }[] {
  const own = around.attributes
    .filter((a) => a.type === 'date')
    .map((a) => ({ field: `subscriber.${a.key}`, label: a.label }));
  const theirs = around.kinds
    .filter((k) => events.includes(k.name))
    .flatMap((k) =>
      k.fields
        .filter((f) => f.type === 'date')
        .map((f) => ({ field: `event.${f.name}`, label: `${f.name} of “${k.label}”` })),
    );
  return [...own, ...theirs];
}

function DateParts({ at, save }: { at: Extract<WaitAt, { kind: 'date' }>; save: (at: WaitAt) => void }) {
  const { data: around } = useAroundQuery();
  const doc = useApp((s) => s.draft.doc);
  if (!around || !doc) return null;
  const dates = datesFor(around, startingEvents(doc.triggers));
  return (
    <>
      <DaysFrom days={at.days} max={3650} save={(days) => save({ ...at, days })} />{' '}
      <OneOf
        label="Which date"
        a="a date"
        value={at.field}
        of={dates.map((d) => [d.field, d.label] as const)}
        save={(field) => save({ ...at, field })}
        className="inline-block !w-44"
      />{' '}
      at{' '}
      <select
        aria-label="At what time"
        value={at.minute === null ? 'own' : 'hour'}
        onChange={(e) => save({ ...at, minute: e.target.value === 'own' ? null : NINE })}
        className={`${inline} !w-36`}
      >
        <option value="hour">an hour</option>
        <option value="own">its own time</option>
      </select>{' '}
      {at.minute !== null && <TimeOfDay minute={at.minute} save={(minute) => save({ ...at, minute })} />}. If that has
      passed, or there is no such date, they{' '}
      <select
        aria-label="If it has passed"
        value={at.passed}
        onChange={(e) => save({ ...at, passed: e.target.value as 'leave' })}
        className={`${inline} !w-36`}
      >
        <option value="leave">leave</option>
        <option value="go-on">go on at once</option>
      </select>
      .
    </>
  );
}

function AtParts({ at, save }: { at: WaitAt; save: (at: WaitAt) => void }) {
  if (at.kind === 'date') return <DateParts at={at} save={save} />;
  if (at.kind === 'weekday')
    return (
      <>
        the next
        <WeekdayButtons
          days={at.days}
          save={(days) => days.length > 0 && save({ ...at, days })}
          label="Weekdays to wait for"
        />
        at <TimeOfDay minute={at.minute} save={(minute) => save({ ...at, minute })} />.
      </>
    );
  return (
    <>
      the next{' '}
      <input
        aria-label="Day"
        type="number"
        min={1}
        max={31}
        value={at.day}
        onChange={(e) =>
          Number(e.target.value) >= 1 && Number(e.target.value) <= 31 && save({ ...at, day: Number(e.target.value) })
        }
        className={`${inline} !w-16`}
      />{' '}
      <select
        aria-label="Month"
        value={at.month}
        onChange={(e) => save({ ...at, month: Number(e.target.value) })}
        className={`${inline} !w-32`}
      >
        {MONTHS.map((m, i) => (
          <option key={m} value={i + 1}>
            {m}
          </option>
        ))}
      </select>{' '}
      at <TimeOfDay minute={at.minute} save={(minute) => save({ ...at, minute })} />.
      {at.month === 2 && at.day === 29 && ' In years without a 29 February, on the 28th.'}
    </>
  );
}

/** A wait as one sentence: for a time, or until a moment of the calendar. */
export function WaitPanel({ step }: { step: WaitStep }) {
  const dispatch = useAct();
  const set = (field: string, value: unknown) => dispatch(edit([{ type: 'step.set', step: step.id, field, value }]));
  const at = step.at ?? null;
  const choose = (to: string) => set('at', to === 'period' ? null : blank[to as WaitAt['kind']]);
  return (
    <div className="text-[15px] leading-9">
      Waits{' '}
      <select
        aria-label="What it waits for"
        value={at?.kind ?? 'period'}
        onChange={(e) => choose(e.target.value)}
        className={`${inline} !w-52`}
      >
        <option value="period">for a length of time,</option>
        <option value="weekday">until a weekday,</option>
        <option value="day-of-year">until a day of the year,</option>
        <option value="date">until a date of theirs,</option>
      </select>{' '}
      {at ? (
        <AtParts at={at} save={(next) => set('at', next)} />
      ) : (
        <>
          <PeriodParts amount={step.amount} unit={step.unit} set={set} /> after getting here.
        </>
      )}{' '}
      <span className="block text-[13px] leading-normal text-ink-2">
        {at
          ? 'Reckoned in the reader’s zone.'
          : step.unit === 'days' || step.unit === 'weeks'
            ? 'The time of day stays the same in the reader’s zone.'
            : 'Counted exactly, whatever the clocks do.'}
      </span>
    </div>
  );
}
