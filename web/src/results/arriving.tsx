import type { DomainResult, SenderResult } from '@ascenso/contracts';
import { rateWords } from '@ascenso/core';
import type { Period } from '../numbers/periods.ts';
import { number, Sheet } from '../ui/index.tsx';
import { useDomainsQuery } from './endpoints.ts';

/** Bounces from a receiving domain that say that something is wrong with it, and complaints: as for a sequence's day (common practice, no published source). */
const TOO_MANY = { bounced: 0.05, complained: 0.003 };

type Counts = Omit<DomainResult, 'domain'>;

/** How mail arrives, in lines of one kind. */
function ArrivalTable({
  caption,
  what,
  lines,
}: {
  caption: string;
  what: string;
  lines: readonly { name: string; of: Counts }[];
}) {
  return (
    <Sheet className="overflow-x-auto">
      <table className="w-full min-w-[40rem]">
        <caption className="px-5 pt-4 pb-2 text-left text-[15px] font-bold">{caption}</caption>
        <thead className="bg-paper-2 text-[12px] text-ink-2">
          <tr>
            <th className="py-2 pl-5 text-left font-semibold">{what}</th>
            <th className="pr-3 text-right font-semibold">Sent</th>
            <th className="pr-3 text-right font-semibold">Bounced, of sent</th>
            <th className="pr-3 text-right font-semibold">Called spam, of sent</th>
            <th className="pr-3 text-right font-semibold">Opened, of sent</th>
            <th className="pr-5 text-right font-semibold">Clicked, of sent</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(({ name, of }) => (
            <tr key={name} className="border-t border-line tabular-nums">
              <th scope="row" className="py-2 pl-5 text-left font-semibold">
                {name}
              </th>
              <td className="pr-3 text-right">{number(of.sent)}</td>
              {(['bounced', 'complained', 'opened', 'clicked'] as const).map((k) => {
                const much = (k === 'bounced' || k === 'complained') && of[k] > of.sent * TOO_MANY[k] && of[k] > 1;
                return (
                  <td key={k} className={`pr-3 text-right last:pr-5 ${much ? 'font-semibold text-brick' : ''}`}>
                    {number(of[k])}{' '}
                    <span className={`text-[12px] ${much ? '' : 'text-ink-2'}`}>
                      {rateWords(of[k], of.sent)}
                      {much ? ', much' : ''}
                    </span>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}

/** How mail arrives by sender, and by the domain that receives it. */
export function Arriving({ senders, period }: { senders: readonly SenderResult[]; period: Period | null }) {
  const { currentData } = useDomainsQuery(period, { refetchOnMountOrArgChange: true });
  return (
    <>
      {senders.length > 0 && (
        <ArrivalTable
          caption="How mail arrives, by sender, from the first on"
          what="Sender"
          lines={senders.map((s) => ({ name: s.email, of: s }))}
        />
      )}
      {!currentData && <p className="text-ink-2">Counting by receiving domain …</p>}
      {currentData && currentData.domains.length > 0 && (
        <ArrivalTable
          caption="How mail arrives, by receiving domain, in this period"
          what="Domain of the readers"
          lines={currentData.domains.map((d) => ({ name: d.domain || 'All others', of: d }))}
        />
      )}
    </>
  );
}
