import type { Offer } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { SentencePart } from '../plan/email-parts.tsx';
import { Field, inputClass, Select } from '../ui/index.tsx';
import { Text, type Save } from './fields.tsx';

/** What is given: in words, and as a discount. */
export function Gives({ offer, save }: { offer: Offer; save: Save }) {
  const { data: me } = useMeQuery();
  const { discount } = offer;
  const kind = (to: string) =>
    save({
      discount:
        to === 'other'
          ? { kind: 'other' }
          : { kind: to as 'percent' | 'amount', value: discount.kind === 'other' ? 10 : discount.value },
    });
  return (
    <SentencePart width="w-80" words={offer.words}>
      <Text
        label="What is given, as a reader reads it"
        value={offer.words}
        placeholder="10% off one order"
        save={(words) => save({ words })}
      />
      <Select label="What the shop takes off" value={discount.kind} onChange={(e) => kind(e.target.value)}>
        <option value="percent">so many percent</option>
        <option value="amount">an amount in {me?.workspace.currency}</option>
        <option value="other">something else</option>
      </Select>
      {discount.kind !== 'other' && (
        <Field label={discount.kind === 'percent' ? 'Percent' : `Amount, ${me?.workspace.currency ?? ''}`}>
          {(id) => (
            <input
              id={id}
              type="number"
              min={0}
              step={discount.kind === 'percent' ? 1 : 0.01}
              key={discount.value}
              defaultValue={discount.value}
              onBlur={(e) =>
                Number(e.target.value) > 0 && save({ discount: { ...discount, value: Number(e.target.value) } })
              }
              className={inputClass}
            />
          )}
        </Field>
      )}
    </SentencePart>
  );
}
