import { minuteWords, type Deadline } from '@ascenso/core';
import { useAround } from '../app/around.ts';
import { useMeQuery } from '../app/api.ts';
import { Choice } from '../ui/choice.tsx';
import { EventChoice } from '../ui/event-choice.tsx';
import { NumberField } from '../ui/number-field.tsx';
import { MomentField } from '../ui/moment-field.tsx';
import { ClockChangeNote } from '../ui/clock-change.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';

const halfHours = Array.from({ length: 48 }, (_, i) => i * 30);

function AtHour({ value, none, save }: { value: number | null; none: string; save: (m: number | null) => void }) {
  return (
    <Choice
      label="At"
      value={value ?? ''}
      choose={(v) => save(v === '' ? null : Number(v))}
      of={[
        { value: '', label: none },
        ...halfHours.map((m) => ({ value: m, label: `${minuteWords(m)}, their time` })),
        { value: 1439, label: 'the end of the day' },
      ]}
    />
  );
}

/** When the offer closes. */
export function DeadlineParts({ deadline, save }: { deadline: Deadline; save: (d: Deadline) => void }) {
  const around = useAround(['now', 'attributes', 'kinds']);
  const { data: me } = useMeQuery();
  const kind = (to: string) => {
    if (to === 'never') save({ kind: 'never' });
    else if (to === 'fixed')
      save({
        kind: 'fixed',
        wall: new Date((around?.now ?? Date.now()) + 7 * 86_400_000).toISOString().slice(0, 11) + '18:00',
        zone: me?.workspace.zone ?? 'UTC',
      });
    else if (to === 'attribute')
      save({
        kind: 'attribute',
        field: around?.attributes.find((a) => a.type === 'date')?.key ?? '',
        days: 0,
        minute: null,
      });
    else
      save({
        kind: 'after',
        from: to as 'email',
        event: to === 'event' ? (around?.kinds[0]?.name ?? '') : '',
        amount: 48,
        unit: 'hours',
        minute: null,
      });
  };
  return (
    <>
      <Choice
        label="It closes"
        value={deadline.kind === 'after' ? deadline.from : deadline.kind}
        choose={kind}
        of={[
          { value: 'email', label: 'some time after the first email that gives it' },
          { value: 'entry', label: 'some time after joining the sequence' },
          { value: 'event', label: 'some time after an event' },
          { value: 'fixed', label: 'at one moment for everyone' },
          { value: 'attribute', label: 'by a date of the person' },
          { value: 'never', label: 'never' },
        ]}
      />
      {deadline.kind === 'after' && (
        <>
          {deadline.from === 'event' && (
            <EventChoice
              label="Which event, the last time"
              value={deadline.event}
              kinds={around?.kinds ?? []}
              save={(event) => save({ ...deadline, event })}
            />
          )}
          <div className="grid grid-cols-2 gap-3">
            <NumberField
              late
              label="How many"
              value={deadline.amount}
              least={0}
              most={365}
              save={(amount) => save({ ...deadline, amount })}
            />
            <Choice
              label="Of"
              value={deadline.unit}
              choose={(v) =>
                save({
                  ...deadline,
                  unit: v as 'hours',
                  ...(v === 'hours' ? { minute: null } : {}),
                })
              }
              of={['hours', 'days', 'weeks'].map((u) => ({ value: u, label: u }))}
            />
          </div>
          {deadline.unit !== 'hours' && (
            <AtHour value={deadline.minute} none="the hour it began" save={(minute) => save({ ...deadline, minute })} />
          )}
        </>
      )}
      {deadline.kind === 'fixed' && (
        <>
          <MomentField label="Moment" wall={deadline.wall} save={(wall) => save({ ...deadline, wall })} />
          <ZoneChoice zone={deadline.zone} save={(zone) => save({ ...deadline, zone })} />
          <ClockChangeNote zone={deadline.zone} wall={deadline.wall} />
        </>
      )}
      {deadline.kind === 'attribute' && (
        <>
          <Choice
            label="Which date"
            value={deadline.field}
            choose={(v) => save({ ...deadline, field: v })}
            of={[
              { value: '', label: 'choose one' },
              ...(around?.attributes.filter((a) => a.type === 'date').map((a) => ({ value: a.key, label: a.label })) ??
                []),
            ]}
          />
          <NumberField
            late
            label="Days after it (less than 0 for before)"
            value={deadline.days}
            least={-365}
            most={365}
            save={(days) => save({ ...deadline, days })}
          />
          <AtHour value={deadline.minute} none="the date’s own time" save={(minute) => save({ ...deadline, minute })} />
        </>
      )}
    </>
  );
}
