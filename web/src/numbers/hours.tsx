import { interpolateRgb, scaleLinear } from 'd3';
import { useState } from 'react';
import { WEEKDAYS } from '@ascenso/core';
import { number, Sheet } from '../ui/index.tsx';
import { ViewTabs } from '../ui/tabs.tsx';
import { useHoursQuery } from './endpoints.ts';
import type { Period } from './periods.ts';

const HOURS = Array.from({ length: 24 }, (_, h) => h);
const DAYS = [1, 2, 3, 4, 5, 6, 7];

/** When readers open and click, by weekday and hour of their own clocks: figures in a table, the more the darker. */
export function Hours({ id, period }: { id: string; period: Period | null }) {
  const { data } = useHoursQuery({ id, period }, { refetchOnMountOrArgChange: true });
  const [by, setBy] = useState<'clicked' | 'opened'>('clicked');
  if (!data || data.hours.length === 0) return null;
  const of = (weekday: number, hour: number) =>
    data.hours.find((h) => h.weekday === weekday && h.hour === hour)?.[by] ?? 0;
  const most = Math.max(1, ...data.hours.map((h) => h[by]));
  const shade = scaleLinear<string>([0, most], ['#ffffff', '#8fbfae']).interpolate(interpolateRgb);
  return (
    <Sheet className="shrink-0 p-5">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="flex-1 text-[15px] font-bold">
          When they {by === 'clicked' ? 'click' : 'open'}, on their own clocks
        </h2>
        <ViewTabs
          small
          name="What is counted by the hour"
          value={by}
          views={[
            ['clicked', 'Clicks'],
            ['opened', 'Openings'],
          ]}
          choose={setBy}
        />
      </div>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="By weekday and hour">
        <table className="w-full min-w-[52rem] table-fixed text-center text-[12px] tabular-nums">
          <thead className="text-ink-2">
            <tr>
              <th className="w-24 text-left font-semibold">
                <span className="sr-only">Weekday</span>
              </th>
              {HOURS.map((h) => (
                <th key={h} className="font-semibold">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {DAYS.map((d) => (
              <tr key={d}>
                <th scope="row" className="text-left font-semibold">
                  {WEEKDAYS[d % 7]}
                </th>
                {HOURS.map((h) => {
                  const n = of(d, h);
                  return (
                    <td key={h} className="h-6 border border-sheet" style={{ background: shade(n) }}>
                      {n > 0 ? number(n) : ''}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-2 text-[12px] text-ink-2">
        The first {by === 'clicked' ? 'click in' : 'opening of'} each email, at the hour where its reader is; of those
        whose time zone is not known, at the workspace’s.
      </p>
    </Sheet>
  );
}
