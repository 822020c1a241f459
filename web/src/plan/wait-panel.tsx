import { Plus, X } from 'lucide-react';
import { daysBetween, MONTHS, startingEvents, type WaitAt, type WaitStep } from '@ascenso/core';
import type { Surroundings } from '@ascenso/contracts';
import { useAround } from '../app/around.ts';
import { edit } from '../drafts/draft.ts';
import { useAct, useApp } from '../app/store.ts';
import { Choice } from '../ui/choice.tsx';
import { Button, IconButton } from '../ui/index.tsx';
import { PeriodParts } from './period-parts.tsx';
import { WeekdayButtons } from './window-parts.tsx';
import { TimeField } from '../ui/moment-field.tsx';
import { OneOf } from '../ui/one-of.tsx';
import { DaysFrom } from './days-from.tsx';
import { NumberInput } from '../ui/number-field.tsx';
const NINE = 540;

const blank: Record<WaitAt['kind'], WaitAt> = {
  weekday: { kind: 'weekday', days: [1], minute: NINE },
  'day-of-year': { kind: 'day-of-year', month: 1, day: 1, minute: NINE },
  date: { kind: 'date', field: '', days: -7, minute: NINE, passed: 'leave' },
};

export function TimeOfDay({ minute, save }: { minute: number; save: (minute: number) => void }) {
  return <TimeField label="Time of day" minute={minute} save={save} />;
}

/** Dates that a wait can be reckoned from: of the person, and of the event that starts the sequence. */
function datesFor(
  around: Pick<Surroundings, 'attributes' | 'kinds'>,
  events: string[],
): { field: string; label: string }[] {
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
  const around = useAround(['attributes', 'kinds']);
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
        inline
      />{' '}
      at{' '}
      <Choice
        label="At what time"
        hideLabel
        value={at.minute === null ? 'own' : 'hour'}
        choose={(v) => save({ ...at, minute: v === 'own' ? null : NINE })}
        inline
        of={[
          { value: 'hour', label: 'an hour' },
          { value: 'own', label: 'its own time' },
        ]}
      />{' '}
      {at.minute !== null && <TimeOfDay minute={at.minute} save={(minute) => save({ ...at, minute })} />}. If that has
      passed, or there is no such date, they{' '}
      <Choice
        label="If it has passed"
        hideLabel
        value={at.passed}
        choose={(v) => save({ ...at, passed: v as 'leave' })}
        inline
        of={[
          { value: 'leave', label: 'leave' },
          { value: 'go-on', label: 'go on at once' },
        ]}
      />
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
      <NumberInput
        label="Day"
        least={1}
        most={31}
        value={at.day}
        save={(day) => save({ ...at, day })}
        className="inline-block !w-16"
      />{' '}
      <Choice
        label="Month"
        hideLabel
        value={at.month}
        choose={(v) => save({ ...at, month: Number(v) })}
        inline
        of={MONTHS.map((m, i) => ({ value: i + 1, label: m }))}
      />{' '}
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
      <Choice
        label="What it waits for"
        hideLabel
        value={at?.kind ?? 'period'}
        choose={choose}
        inline
        of={[
          { value: 'period', label: 'for a length of time,' },
          { value: 'weekday', label: 'until a weekday,' },
          { value: 'day-of-year', label: 'until a day of the year,' },
          { value: 'date', label: 'until a date of theirs,' },
        ]}
      />{' '}
      {at ? (
        <AtParts at={at} save={(next) => set('at', next)} />
      ) : (
        <>
          <PeriodParts amount={step.amount} unit={step.unit} set={set} />{' '}
          {step.more ? (
            <>
              and{' '}
              <PeriodParts
                name="And how long"
                {...step.more}
                set={(field, v) => set('more', { ...step.more, [field]: v })}
              />{' '}
              <IconButton name="Take the second part out" onClick={() => set('more', null)}>
                <X size={14} />
              </IconButton>
            </>
          ) : (
            <Button
              tone="quiet"
              onClick={() => set('more', { amount: 1, unit: step.unit === 'hours' ? 'minutes' : 'hours' })}
            >
              <Plus size={14} aria-hidden="true" />
              Add {step.unit === 'hours' ? 'minutes' : 'hours'}
            </Button>
          )}{' '}
          after getting here.
        </>
      )}{' '}
      <span className="block text-[13px] leading-normal text-ink-2">
        {at
          ? 'Reckoned in the reader’s zone.'
          : step.unit === 'days' || step.unit === 'weeks'
            ? `The time of day stays the same in the reader’s zone${step.more ? ', and what is added comes on top' : daysBetween(step) ? `: ${daysBetween(step)}` : ''}.`
            : 'Counted exactly, whatever the clocks do.'}
      </span>
    </div>
  );
}
