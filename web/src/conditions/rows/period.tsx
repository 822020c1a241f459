import type { Period } from '@ascenso/core';
import { inputClass } from '../../ui/index.tsx';
import { Choice } from '../../ui/choice.tsx';

/** A number of hours, days or weeks. */
export function PeriodParts({ label, period, save }: { label: string; period: Period; save: (p: Period) => void }) {
  return (
    <>
      <input
        aria-label={label}
        type="number"
        min={1}
        max={999}
        value={period.amount}
        onChange={(e) => Number(e.target.value) >= 1 && save({ amount: Number(e.target.value), unit: period.unit })}
        className={`${inputClass} !w-16`}
      />
      <Choice
        label="Unit"
        hideLabel
        value={period.unit}
        choose={(v) => save({ amount: period.amount, unit: v as Period['unit'] })}
        className="w-24"
        of={['hours', 'days', 'weeks'].map((u) => ({ value: u, label: u }))}
      />
    </>
  );
}
