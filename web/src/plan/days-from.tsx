import { Choice } from '../ui/choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';

/** So many days before or after a date, or on it: "7 days before". Negative is before. A side chosen anew begins with a week. */
export function DaysFrom({ days, max, save }: { days: number; max: number; save: (days: number) => void }) {
  const side = days === 0 ? 'on' : days < 0 ? 'before' : 'after';
  return (
    <>
      {side !== 'on' && (
        <>
          <NumberInput
            label="How many days"
            least={1}
            most={max}
            value={Math.abs(days)}
            save={(n) => save(Math.sign(days) * n)}
            className="inline-block !w-20"
          />{' '}
          days{' '}
        </>
      )}
      <Choice
        label="Before or after"
        hideLabel
        value={side}
        choose={(v) => save(v === 'on' ? 0 : (v === 'before' ? -1 : 1) * (Math.abs(days) || 7))}
        inline
        of={['before', 'on', 'after'].map((s) => ({ value: s, label: s }))}
      />
    </>
  );
}
