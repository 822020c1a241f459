import { Select } from '../../ui/index.tsx';
import { PeriodParts } from './period.tsx';
import type { AtomRow, PartsProps } from './row.ts';

function OfferParts({ atom, around, save }: PartsProps<'offer'>) {
  return (
    <>
      <Select label="Which offer" value={atom.offer} onChange={(e) => save({ ...atom, offer: e.target.value })}>
        <option value="">Choose an offer …</option>
        {around.offers.map((o) => (
          <option key={o.id} value={o.id}>
            {o.name}
          </option>
        ))}
      </Select>
      <Select label="That is" value={atom.state} onChange={(e) => save({ ...atom, state: e.target.value as 'open' })}>
        <option value="open">open</option>
        <option value="closing">open, and closes soon</option>
        <option value="closed">closed, unused</option>
        <option value="used">used</option>
      </Select>
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
