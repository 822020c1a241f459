import { inputClass } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

const inline = `${inputClass} inline-block`;

/** So many days before or after a date, or on it: "7 days before". Negative is before. A side chosen anew begins with a week. */
export function DaysFrom({ days, max, save }: { days: number; max: number; save: (days: number) => void }) {
  const side = days === 0 ? 'on' : days < 0 ? 'before' : 'after';
  return (
    <>
      {side !== 'on' && (
        <>
          <input
            aria-label="How many days"
            type="number"
            min={1}
            max={max}
            value={Math.abs(days)}
            onChange={(e) => {
              const n = Number(e.target.value);
              if (n >= 1 && n <= max) save(Math.sign(days) * n);
            }}
            className={`${inline} !w-20`}
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
