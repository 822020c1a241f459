import { zoneNames, minuteWords, type Deadline } from '@ascenso/core';
import { useAroundQuery, useMeQuery } from '../app/api.ts';
import { Field, inputClass, Select } from '../ui/index.tsx';
import { Whole } from './fields.tsx';

const halfHours = Array.from({ length: 48 }, (_, i) => i * 30);

function AtHour({ value, none, save }: { value: number | null; none: string; save: (m: number | null) => void }) {
  return (
    <Select
      label="At"
      value={value ?? ''}
      onChange={(e) => save(e.target.value === '' ? null : Number(e.target.value))}
    >
      <option value="">{none}</option>
      {halfHours.map((m) => (
        <option key={m} value={m}>
          {minuteWords(m)}, their time
        </option>
      ))}
      <option value={1439}>the end of the day</option>
    </Select>
  );
}

/** When the offer closes. */
export function DeadlineParts({ deadline, save }: { deadline: Deadline; save: (d: Deadline) => void }) {
  const { data: around } = useAroundQuery();
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
      <Select
        label="It closes"
        value={deadline.kind === 'after' ? deadline.from : deadline.kind}
        onChange={(e) => kind(e.target.value)}
      >
        <option value="email">some time after the first email that gives it</option>
        <option value="entry">some time after joining the sequence</option>
        <option value="event">some time after an event</option>
        <option value="fixed">at one moment for everyone</option>
        <option value="attribute">by a date of the person</option>
        <option value="never">never</option>
      </Select>
      {deadline.kind === 'after' && (
        <>
          {deadline.from === 'event' && (
            <Select
              label="Which event, the last time"
              value={deadline.event}
              onChange={(e) => save({ ...deadline, event: e.target.value })}
            >
              {around?.kinds.map((k) => (
                <option key={k.name} value={k.name}>
                  {k.label}
                </option>
              ))}
            </Select>
          )}
          <div className="grid grid-cols-2 gap-3">
            <Whole
              label="How many"
              value={deadline.amount}
              min={0}
              max={365}
              save={(amount) => save({ ...deadline, amount })}
            />
            <Select
              label="Of"
              value={deadline.unit}
              onChange={(e) =>
                save({
                  ...deadline,
                  unit: e.target.value as 'hours',
                  ...(e.target.value === 'hours' ? { minute: null } : {}),
                })
              }
            >
              {['hours', 'days', 'weeks'].map((u) => (
                <option key={u}>{u}</option>
              ))}
            </Select>
          </div>
          {deadline.unit !== 'hours' && (
            <AtHour value={deadline.minute} none="the hour it began" save={(minute) => save({ ...deadline, minute })} />
          )}
        </>
      )}
      {deadline.kind === 'fixed' && (
        <>
          <Field label="Moment">
            {(id) => (
              <input
                id={id}
                type="datetime-local"
                value={deadline.wall}
                onChange={(e) => e.target.value && save({ ...deadline, wall: e.target.value.slice(0, 16) })}
                className={inputClass}
              />
            )}
          </Field>
          <Select
            label="In the time of"
            value={deadline.zone}
            onChange={(e) => save({ ...deadline, zone: e.target.value })}
          >
            {zoneNames.map((z) => (
              <option key={z}>{z}</option>
            ))}
          </Select>
        </>
      )}
      {deadline.kind === 'attribute' && (
        <>
          <Select
            label="Which date"
            value={deadline.field}
            onChange={(e) => save({ ...deadline, field: e.target.value })}
          >
            <option value="">choose one</option>
            {around?.attributes
              .filter((a) => a.type === 'date')
              .map((a) => (
                <option key={a.key} value={a.key}>
                  {a.label}
                </option>
              ))}
          </Select>
          <Whole
            label="Days after it (less than 0 for before)"
            value={deadline.days}
            min={-365}
            max={365}
            save={(days) => save({ ...deadline, days })}
          />
          <AtHour value={deadline.minute} none="the date’s own time" save={(minute) => save({ ...deadline, minute })} />
        </>
      )}
    </>
  );
}
