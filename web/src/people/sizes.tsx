import { line, scaleLinear } from 'd3';
import type { SegmentCount } from '@ascenso/contracts';
import { dateWords, DAY, zoneOf } from '@ascenso/core';
import { number } from '../ui/index.tsx';

type Sizes = SegmentCount['sizes'];

const UTC = zoneOf('UTC');
const dayWords = (day: number) => dateWords(UTC, day * DAY, true);
const WIDTH = 96;
const HEIGHT = 24;

/** The size of a segment over its last days, as a line; what it shows is said, and the days stand in a table behind it. */
export function SizeLine({ sizes }: { sizes: Sizes }) {
  const [first, last] = [sizes[0], sizes.at(-1)];
  if (!first || !last || first === last) return <span className="text-[12px] text-ink-2">from tomorrow on</span>;
  const x = scaleLinear([first.day, last.day], [2, WIDTH - 2]);
  const most = Math.max(1, ...sizes.map((s) => s.people));
  const y = scaleLinear([0, most], [HEIGHT - 2, 2]);
  const path = line<Sizes[number]>(
    (s) => x(s.day),
    (s) => y(s.people),
  )(sizes);
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={`From ${number(first.people)} on ${dayWords(first.day)} to ${number(last.people)} on ${dayWords(last.day)}`}
    >
      <path d={path ?? ''} fill="none" className="stroke-spruce" strokeWidth={1.5} />
      <circle cx={x(last.day)} cy={y(last.people)} r={2.5} className="fill-spruce" />
    </svg>
  );
}

/** The same as figures, the latest first. */
export function SizeTable({ sizes }: { sizes: Sizes }) {
  if (sizes.length === 0) return <p className="text-ink-2">Its size is kept from the next midnight on.</p>;
  return (
    <details>
      <summary className="cursor-pointer font-semibold">Its size, day by day</summary>
      <div className="mt-2 max-h-56 overflow-y-auto">
        <table className="w-full">
          <thead className="text-left text-[12px] text-ink-2">
            <tr>
              <th className="py-1 font-semibold">At the beginning of</th>
              <th className="text-right font-semibold">People</th>
              <th className="text-right font-semibold">Change</th>
            </tr>
          </thead>
          <tbody>
            {sizes.toReversed().map((s, i, all) => {
              const before = all[i + 1];
              const change = before ? s.people - before.people : 0;
              return (
                <tr key={s.day} className="border-t border-line/60">
                  <td className="py-1">{dayWords(s.day)}</td>
                  <td className="text-right tabular-nums">{number(s.people)}</td>
                  <td className="text-right text-ink-2 tabular-nums">
                    {change === 0 ? '' : `${change > 0 ? '+' : '−'}${number(Math.abs(change))}`}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </details>
  );
}
