import type { WaitStep } from '@ascenso/core';
import { inputClass } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

/** A length of time in a sentence: "3 days". */
export function PeriodParts({
  amount,
  unit,
  set,
}: {
  amount: number;
  unit: WaitStep['unit'];
  set: (field: 'amount' | 'unit', value: unknown) => void;
}) {
  return (
    <>
      <input
        aria-label="How long"
        type="number"
        min={0}
        max={999}
        value={amount}
        onChange={(e) => e.target.value !== '' && set('amount', Number(e.target.value))}
        className={`${inputClass} inline-block !w-20`}
      />{' '}
      <Choice
        label="Unit"
        hideLabel
        value={unit}
        choose={(v) => set('unit', v)}
        inline
        className="-block"
        of={['minutes', 'hours', 'days', 'weeks'].map((u) => ({ value: u, label: u }))}
      />
    </>
  );
}
