import type { TriggerOf } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { Choice } from '../ui/choice.tsx';
import { DayField, TimeField } from '../ui/moment-field.tsx';
import { ZoneChoice } from '../ui/zone-choice.tsx';

/** When everybody gets it, as a sentence: on publishing, or on a day, in one zone or in each reader's own. */
export function MomentParts({ value, save }: { value: TriggerOf<'moment'>; save: (t: TriggerOf<'moment'>) => void }) {
  const { data: me } = useMeQuery();
  return (
    <div className="leading-9">
      It goes out{' '}
      <Choice
        label="When it goes out"
        hideLabel
        inline
        part="trigger"
        value={value.when}
        choose={(when) => save({ ...value, when })}
        of={[
          { value: 'day', label: 'on a day' },
          { value: 'published', label: 'as soon as it is sent off' },
        ]}
      />
      {value.when === 'day' && (
        <>
          :{' '}
          <DayField inline label="Day on which it goes out" value={value.day} save={(day) => save({ ...value, day })} />{' '}
          at{' '}
          <TimeField
            label="Time at which it goes out"
            minute={value.minute}
            save={(minute) => save({ ...value, minute })}
          />{' '}
          <Choice
            label="Whose time"
            hideLabel
            inline
            value={value.zone === null ? 'own' : 'one'}
            choose={(v) => save({ ...value, zone: v === 'own' ? null : (me?.workspace.zone ?? 'UTC') })}
            of={[
              { value: 'own', label: 'in each reader’s own zone' },
              { value: 'one', label: 'in one zone' },
            ]}
          />
          {value.zone !== null && (
            <span className="mt-1 block max-w-64">
              <ZoneChoice zone={value.zone} save={(zone) => save({ ...value, zone })} />
            </span>
          )}
        </>
      )}
    </div>
  );
}
