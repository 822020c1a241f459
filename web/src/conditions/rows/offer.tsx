import { Choice } from '../../ui/choice.tsx';
import { PeriodParts } from './period.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function OfferParts({ atom, around, save }: PartsProps<'offer'>) {
  return (
    <>
      <Choice
        label="Which offer"
        value={atom.offer}
        choose={(v) => save({ ...atom, offer: v })}
        of={[{ value: '', label: 'Choose an offer …' }, ...around.offers.map((o) => ({ value: o.id, label: o.name }))]}
      />
      <Choice
        label="That is"
        value={atom.state}
        choose={(v) => save({ ...atom, state: v })}
        of={[
          { value: 'open', label: 'open' },
          { value: 'closing', label: 'open, and closes soon' },
          { value: 'closed', label: 'closed, unused' },
          { value: 'used', label: 'used' },
        ]}
      />
      {atom.state === 'closing' && (
        <div className="flex items-end gap-1">
          <PeriodParts label="Within how many" period={atom.within} save={(within) => save({ ...atom, within })} />
        </div>
      )}
    </>
  );
}

export const offerRow: AtomRow<'offer'> = {
  choices: [
    { kind: 'offer', label: 'has an offer that is …' },
    { kind: 'no-offer', label: 'has no offer that is …' },
  ],
  choiceOf: (a) => (a.is ? 'offer' : 'no-offer'),
  blank: (choice, old, { around }) => ({
    ...(old?.kind === 'offer'
      ? old
      : { kind: 'offer', offer: around.offers[0]?.id ?? '', state: 'open', within: { amount: 12, unit: 'hours' } }),
    is: choice === 'offer',
  }),
  Parts: OfferParts,
};
