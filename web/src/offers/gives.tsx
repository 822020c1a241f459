import { offerText, type Discount, type Offer } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { SentencePart } from '../plan/email-parts.tsx';
import { Choice } from '../ui/choice.tsx';
import { Text, type Save } from './fields.tsx';
import { NumberField } from '../ui/number-field.tsx';

/** The discount of a kind, keeping the number where there is one. */
function ofKind(kind: string, before: Discount, currency: string): Discount {
  const value = 'value' in before ? before.value : 10;
  switch (kind as Discount['kind']) {
    case 'percent':
      return { kind: 'percent', value: Math.min(value, 100) };
    case 'amount':
      return { kind: 'amount', value, currency };
    case 'delivery':
      return { kind: 'delivery' };
    case 'other':
      return { kind: 'other', words: offerText({ discount: before, around: { before: '', after: '' } }, 'en-GB') };
  }
}

/** What is taken off: its kind, and its figure with the unit. */
export function DiscountFields({ discount, save }: { discount: Discount; save: (d: Discount) => void }) {
  const { data: me } = useMeQuery();
  const currency = discount.kind === 'amount' ? discount.currency : (me?.workspace.currency ?? 'EUR');
  return (
    <>
      <Choice
        label="What is given"
        value={discount.kind}
        choose={(v) => save(ofKind(v, discount, currency))}
        of={[
          { value: 'percent', label: 'so many percent off' },
          { value: 'amount', label: `an amount in ${currency} off` },
          { value: 'delivery', label: 'free delivery' },
          { value: 'other', label: 'something else, in words' },
        ]}
      />
      {'value' in discount && (
        <NumberField
          late
          label={discount.kind === 'percent' ? 'Percent' : `Amount, ${currency}`}
          least={0.01}
          most={discount.kind === 'percent' ? 100 : 1_000_000}
          decimals={2}
          value={discount.value}
          save={(value) => save({ ...discount, value })}
        />
      )}
      {discount.kind === 'other' && (
        <Text
          label="In words, as a reader reads it"
          value={discount.words}
          placeholder="a free tin of wax"
          save={(words) => save({ kind: 'other', words })}
        />
      )}
    </>
  );
}

/** What is given: the figure that email and shop both take, and what is written around it. */
export function Gives({ offer, save }: { offer: Offer; save: Save }) {
  const { discount, around } = offer;
  const words = offerText(offer, 'en-GB');
  return (
    <SentencePart width="w-80" words={words}>
      <DiscountFields discount={discount} save={(d) => save({ discount: d })} />
      {discount.kind !== 'other' && (
        <>
          <Text
            label="Words before it"
            value={around.before}
            placeholder="none"
            save={(before) => save({ around: { ...around, before } })}
          />
          <Text
            label="Words after it"
            value={around.after}
            placeholder="one order"
            save={(after) => save({ around: { ...around, after } })}
          />
          <p className="text-[13px] text-ink-2">
            A reader reads “{words}”; in German the figure says “
            {offerText({ ...offer, around: { before: '', after: '' } }, 'de')}”. The shop takes off the same.
          </p>
        </>
      )}
    </SentencePart>
  );
}
