import { scaleLinear } from 'd3';
import { Link } from 'react-router';
import type { OfferResult } from '@ascenso/contracts';
import { rateWords } from '@ascenso/core';
import type { Period } from '../numbers/periods.ts';
import { number, Sheet } from '../ui/index.tsx';
import { moneyWords } from '../ui/money.ts';
import { useOfferResultsQuery } from './endpoints.ts';

const BAR = 120;

/** How far an offer came with the people it was given to: seen within given, used within seen. The table says it in figures. */
function HowFar({ given, seen, used }: OfferResult) {
  const x = scaleLinear([0, Math.max(1, given)], [0, BAR]);
  return (
    <svg width={BAR} height="12" aria-hidden="true">
      <rect width={x(given)} height="12" rx="2" className="fill-line" />
      <rect width={x(seen)} height="12" rx="2" className="fill-spruce-mid" />
      <rect width={x(used)} height="12" rx="2" className="fill-spruce" />
    </svg>
  );
}

/** What codes and offers brought on the days that are looked at. */
export function Codes({ period }: { period: Period | null }) {
  const { currentData } = useOfferResultsQuery(period, { refetchOnMountOrArgChange: true });
  if (!currentData) return <p className="text-ink-2">Counting codes and offers …</p>;
  if (currentData.offers.length === 0) return null;
  const right = 'pr-3 text-right font-semibold';
  return (
    <Sheet className="overflow-x-auto">
      <table className="w-full min-w-[46rem]">
        <caption className="px-5 pt-4 pb-2 text-left text-[15px] font-bold">
          Codes and offers
          <span className="block text-[13px] font-normal text-ink-2">
            Given on these days, and what became of those; orders of these days by a code.
          </span>
        </caption>
        <thead className="bg-paper-2 text-[12px] text-ink-2">
          <tr>
            <th className="py-2 pl-5 text-left font-semibold">Offer</th>
            <th className="text-left font-semibold">Given, seen, used</th>
            <th className={right}>Given</th>
            <th className={right}>Seen, of given</th>
            <th className={right}>Used, of given</th>
            <th className={right}>Ran out, of given</th>
            <th className={right}>Orders by code</th>
            <th className="pr-5 text-right font-semibold">Money</th>
          </tr>
        </thead>
        <tbody>
          {currentData.offers.map((o) => (
            <tr key={o.id} className="border-t border-line tabular-nums">
              <th scope="row" className="py-2 pl-5 text-left font-semibold">
                <Link to={`/offers/${o.id}`} className="hover:underline">
                  {o.name}
                </Link>
              </th>
              <td>
                <HowFar {...o} />
              </td>
              <td className="pr-3 text-right">{number(o.given)}</td>
              {(['seen', 'used', 'ranOut'] as const).map((k) => (
                <td key={k} className="pr-3 text-right">
                  {number(o[k])} <span className="text-[12px] text-ink-2">{rateWords(o[k], o.given)}</span>
                </td>
              ))}
              <td className="pr-3 text-right">{number(o.orders)}</td>
              <td className="pr-5 text-right">{moneyWords(o.money)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}
