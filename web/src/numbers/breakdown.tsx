import { useState } from 'react';
import type { BreakdownRow } from '@ascenso/contracts';
import { type Change, MONTHS, momentWords, rateWords, zoneOf } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { useVersionsQuery } from '../plan/endpoints.ts';
import { number, Sheet } from '../ui/index.tsx';
import { moneyPer, moneyWords } from '../ui/money.ts';
import { ViewTabs } from '../ui/tabs.tsx';
import { useBreakdownQuery } from './endpoints.ts';

/** Changes of a version that are told in its row. */
const CHANGES = 3;

const monthWords = (key: string) => `${MONTHS[Number(key.slice(5)) - 1]} ${key.slice(0, 4)}`;

/** One row for each month or version: what came of it, email by email. */
function BreakdownTable({
  rows,
  emails,
  head,
  label,
  about = () => [],
}: {
  rows: readonly BreakdownRow[];
  emails: readonly { id: string; name: string }[];
  head: string;
  label: (row: BreakdownRow) => string;
  /** What is to be said of a row in small print. */
  about?: (row: BreakdownRow) => readonly string[];
}) {
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label={`By ${head.toLowerCase()}`}>
      <table className="w-full min-w-[52rem]">
        <thead className="text-[12px] text-ink-2">
          <tr className="align-bottom">
            <th className="py-1 pr-3 text-left font-semibold">{head}</th>
            <th className="pr-3 text-right font-semibold">Joined</th>
            <th className="pr-3 text-right font-semibold">Money</th>
            <th className="pr-3 text-right font-semibold">For each</th>
            {emails.map((e) => (
              <th key={e.id} className="max-w-28 pr-3 text-right font-semibold">
                {e.name}: sent, clicked
              </th>
            ))}
            <th className="text-right font-semibold">Left</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr key={r.key} className="border-t border-line tabular-nums">
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold whitespace-nowrap">
                {label(r)}
                {about(r).map((words) => (
                  <p key={words} className="max-w-72 truncate text-[12px] font-normal text-ink-2" title={words}>
                    {words}
                  </p>
                ))}
              </th>
              <td className="pr-3 text-right">{number(r.joined)}</td>
              <td className="pr-3 text-right font-semibold">{moneyWords(r.money)}</td>
              <td className="pr-3 text-right">{moneyPer(r.money, r.joined)}</td>
              {emails.map((e) => {
                const n = r.steps[e.id];
                return (
                  <td key={e.id} className="pr-3 text-right whitespace-nowrap">
                    {n ? (
                      <>
                        {number(n.sent)} <b className="font-semibold">{rateWords(n.clicked, n.sent)}</b>
                      </>
                    ) : (
                      <span className="text-ink-2">–</span>
                    )}
                  </td>
                );
              })}
              <td className="text-right">{number(r.left)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What a version changed, as far as a row has room for it. */
function changedIn(changes: readonly Change[]): string[] {
  const told = changes.flatMap((c) => (c.words.length > 0 ? c.words : [c.kind]).map((w) => `${c.title}: ${w}`));
  const more = told.length - CHANGES;
  return [...told.slice(0, CHANGES), ...(more > 0 ? [`and ${more} more`] : [])];
}

/** The same sequence month by month, or version by version: whether what one changed made it better. */
export function Breakdown({ id, emails }: { id: string; emails: readonly { id: string; name: string }[] }) {
  const { data } = useBreakdownQuery(id, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  const [by, setBy] = useState<'month' | 'version'>('month');
  const { data: history } = useVersionsQuery(id, { skip: by === 'month' });
  if (!data || !me) return null;
  const zone = zoneOf(me.workspace.zone);
  const published = (key: string) => data.versions.find((v) => v.key === key)?.publishedAt ?? null;
  return (
    <Sheet className="shrink-0 p-5">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="flex-1 text-[15px] font-bold">
          {by === 'month' ? 'Month by month of joining' : 'Version by version'}
        </h2>
        <ViewTabs
          small
          name="What is told apart"
          value={by}
          views={[
            ['month', 'Months'],
            ['version', 'Versions'],
          ]}
          choose={setBy}
        />
      </div>
      {by === 'month' ? (
        <BreakdownTable rows={data.months} emails={emails} head="Month" label={(r) => monthWords(r.key)} />
      ) : (
        <BreakdownTable
          rows={data.versions}
          emails={emails}
          head="Version"
          label={(r) => {
            const at = published(r.key);
            return `Version ${r.key}${at === null ? '' : `, ${momentWords(zone, at)}`}`;
          }}
          about={(r) => changedIn(history?.versions.find((v) => String(v.number) === r.key)?.changes ?? [])}
        />
      )}
      <p className="mt-2 text-[12px] text-ink-2">
        {by === 'month'
          ? 'Whoever joined in a month, whenever their emails came. Those who joined lately are still on their way.'
          : 'Emails by the version they were sent by; people by the version that they are on, or ended on. All that changed from one to the next stands under Versions.'}
      </p>
    </Sheet>
  );
}
