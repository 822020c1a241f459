import { Link } from 'react-router';
import type { ResultFigures, SequenceResult } from '@ascenso/contracts';
import { useLabelsQuery } from '../labels/endpoints.ts';
import { has } from '../labels/use-labels.ts';
import { number, Sheet } from '../ui/index.tsx';
import { moneyWords } from '../ui/money.ts';

/** What came back by label. What has two labels counts under both. */
export function ByLabel({
  sequences,
  sum,
}: {
  sequences: readonly SequenceResult[];
  sum: (of: readonly ResultFigures[]) => ResultFigures;
}) {
  const { data } = useLabelsQuery();
  const lines = (data?.labels ?? [])
    .map((label) => ({ label, of: sequences.filter((s) => s.id !== null && has(label, 'sequence', s.id)) }))
    .filter((l) => l.of.length > 0);
  if (lines.length === 0) return null;
  return (
    <Sheet className="overflow-x-auto">
      <table className="w-full min-w-[40rem]">
        <caption className="px-5 pt-4 pb-2 text-left text-[15px] font-bold">
          By label <span className="font-normal text-ink-2">· what has two counts under both</span>
        </caption>
        <thead className="bg-paper-2 text-[12px] text-ink-2">
          <tr>
            <th className="py-2 pl-5 text-left font-semibold">Label</th>
            <th className="pr-3 text-right font-semibold">Money</th>
            <th className="pr-3 text-right font-semibold">Before</th>
            <th className="pr-3 text-right font-semibold">Orders</th>
            <th className="pr-5 text-right font-semibold">Emails sent</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(({ label, of }) => {
            const now = sum(of);
            return (
              <tr key={label.id} className="border-t border-line tabular-nums">
                <th scope="row" className="py-2 pl-5 text-left font-semibold">
                  <Link to={`/sequences?label=${label.id}`} className="hover:underline">
                    {label.name}
                  </Link>{' '}
                  <span className="font-normal text-ink-2">
                    {number(of.length)} {of.length === 1 ? 'sequence' : 'sequences'}
                  </span>
                </th>
                <td className="pr-3 text-right font-semibold">{moneyWords(now.money)}</td>
                <td className="pr-3 text-right text-ink-2">{moneyWords(sum(of.map((s) => s.before)).money)}</td>
                <td className="pr-3 text-right">{number(now.orders)}</td>
                <td className="pr-5 text-right">{number(now.mailed)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Sheet>
  );
}
