import type { WaitStep } from '@ascenso/core';
import { Choice } from '../ui/choice.tsx';
import { NumberInput } from '../ui/number-field.tsx';

/** A length of time in a sentence: "3 days". */
export function PeriodParts({
  name = 'How long',
  amount,
  unit,
  set,
}: {
  name?: string;
  amount: number;
  unit: WaitStep['unit'];
  set: (field: 'amount' | 'unit', value: unknown) => void;
}) {
  return (
    <>
      <NumberInput
        label={name}
        least={0}
        most={999}
        value={amount}
        save={(n) => set('amount', n)}
        className="inline-block !w-20"
      />{' '}
      <Choice
        label={name === 'How long' ? 'Unit' : `${name}, unit`}
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
