import type { Period } from '@ascenso/core';
import { inputClass } from '../../ui/index.tsx';

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
      <select
        aria-label="Unit"
        value={period.unit}
        onChange={(e) => save({ amount: period.amount, unit: e.target.value as Period['unit'] })}
        className={`${inputClass} !w-24`}
      >
        {['hours', 'days', 'weeks'].map((u) => (
          <option key={u}>{u}</option>
        ))}
      </select>
    </>
  );
}
