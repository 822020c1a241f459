import type { EffectAnswer } from '@ascenso/contracts';
import { added } from '@ascenso/core';
import { number, Sheet } from '../ui/index.tsx';
import { amountWords } from '../ui/money.ts';
import { useEffectOfQuery } from './endpoints.ts';

const reckon = ({ groups: [through, out] }: EffectAnswer) =>
  through && out ? added(through, out) : { perPerson: null, why: 'nobody-held-out' as const };

/** "+€1.94": with its sign, so that a loss is seen. */
const signed = (minor: number, currency: string) => `${minor < 0 ? '−' : '+'}${amountWords(Math.abs(minor), currency)}`;

const TOO_LITTLE = {
  'nobody-held-out': 'Nobody has been held out for long enough.',
  'few-people': 'Too few to say: each side needs 30 people.',
  'few-orders': 'Too few to say: there are hardly any orders yet.',
};

/** What the sequence added for each person, with its range, beside the other figures. */
export function EffectFigure({ id, heldOut }: { id: string; heldOut: number }) {
  const { data } = useEffectOfQuery(id, { skip: heldOut === 0, refetchOnMountOrArgChange: true });
  if (!data || heldOut === 0) return null;
  const { perPerson } = reckon(data);
  return (
    <p>
      <span className="block font-head text-[22px] leading-7 font-bold tabular-nums">
        {perPerson ? signed(perPerson.mean, data.currency) : '?'}
      </span>
      <span className="block text-[13px] text-ink-2">
        {perPerson
          ? `added for each, ±${amountWords((perPerson.high - perPerson.low) / 2, data.currency)}`
          : 'added: too few to say'}
      </span>
    </p>
  );
}

/** Whoever went through beside whoever was held out, as figures. */
export function Effect({ id }: { id: string }) {
  const { data } = useEffectOfQuery(id);
  if (!data) return null;
  const { perPerson, why } = reckon(data);
  const { currency, days, waiting, others } = data;
  return (
    <Sheet className="shrink-0 p-5">
      <h2 className="text-[15px] font-bold">What it really added</h2>
      <p className="mb-3 text-ink-2">
        {perPerson
          ? perPerson.low > 0
            ? `Yes: in 95 of 100 cases it adds between ${amountWords(perPerson.low, currency)} and ${amountWords(perPerson.high, currency)} for each person.`
            : perPerson.high < 0
              ? `It costs: between ${amountWords(-perPerson.high, currency)} and ${amountWords(-perPerson.low, currency)} for each person.`
              : `Not settled: anything from ${signed(perPerson.low, currency)} to ${signed(perPerson.high, currency)} for each person fits what was seen.`
          : TOO_LITTLE[why ?? 'few-people']}{' '}
        Chance decided who was held out, so the difference is the sequence’s. All orders within {days} days of joining
        count, whatever brought them.
      </p>
      <table className="w-full max-w-2xl">
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th className="text-left font-semibold">Group</th>
            <th className="text-right font-semibold">People</th>
            <th className="text-right font-semibold">Orders</th>
            <th className="text-right font-semibold">Orders for each 100</th>
            <th className="text-right font-semibold">Money</th>
            <th className="text-right font-semibold">Money for each</th>
          </tr>
        </thead>
        <tbody>
          {data.groups.map((g) => (
            <tr key={g.name} className="border-t border-line tabular-nums">
              <th scope="row" className="py-1.5 text-left font-semibold">
                {g.name === 'in' ? 'Went through it' : 'Held out'}
              </th>
              <td className="text-right">{number(g.people)}</td>
              <td className="text-right">{number(g.orders)}</td>
              <td className="text-right">{g.people ? ((g.orders / g.people) * 100).toFixed(1) : '–'}</td>
              <td className="text-right">{amountWords(g.money, currency)}</td>
              <td className="text-right">{g.people ? amountWords(g.money / g.people, currency) : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {(waiting > 0 || others > 0) && (
        <p className="mt-2 text-[12px] text-ink-2">
          {waiting > 0 && `${number(waiting)} joined less than ${days} days ago and do not count yet. `}
          {others > 0 && `${number(others)} orders in other currencies are not added up.`}
        </p>
      )}
    </Sheet>
  );
}
