import type { Period } from '@ascenso/core';
import { Choice } from '../../ui/choice.tsx';
import { NumberInput } from '../../ui/number-field.tsx';

/** A number of hours, days or weeks. */
export function PeriodParts({ label, period, save }: { label: string; period: Period; save: (p: Period) => void }) {
  return (
    <>
      <NumberInput
        label={label}
        least={1}
        most={999}
        value={period.amount}
        save={(amount) => save({ amount, unit: period.unit })}
        className="!w-16"
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
