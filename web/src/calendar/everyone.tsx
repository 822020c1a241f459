import { scaleBand, scaleLinear } from 'd3';
import { useState } from 'react';
import { dateWords, wallOf, WEEKDAYS, zoneOf } from '@ascenso/core';
import type { ForecastAnswer } from '@ascenso/contracts';
import { Link } from 'react-router';
import { useAround } from '../app/around.ts';
import { sentence, useMeQuery } from '../app/api.ts';
import { useForecastQuery } from '../sequences/endpoints.ts';
import { Empty, number, Sheet } from '../ui/index.tsx';
import { Choice } from '../ui/choice.tsx';

const WIDTH = 1180;
const HEIGHT = 260;
const BASE = HEIGHT - 34;

const sum = (lists: number[][], day: number) => lists.reduce((n, l) => n + (l[day] ?? 0), 0);

/** Emails a day to those inside (dark) and to those still to begin (light), one bar each day. */
function Bars({ data, of, zoneName }: { data: ForecastAnswer; of: string; zoneName: string }) {
  const zone = zoneOf(zoneName);
  const chosen = data.sequences.filter((s) => of === '' || s.id === of);
  const days = data.days.map((at, i) => ({
    at,
    inside: sum(
      chosen.map((s) => s.inside),
      i,
    ),
    joiners: Math.round(
      sum(
        chosen.map((s) => s.joiners),
        i,
      ),
    ),
  }));
  const x = scaleBand(
    days.map((d) => String(d.at)),
    [44, WIDTH],
  ).padding(0.25);
  const most = Math.max(1, ...days.map((d) => d.inside + d.joiners));
  const y = scaleLinear([0, most], [BASE, 12]).nice(4);
  return (
    <>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" aria-hidden="true">
        {y.ticks(4).map((t) => (
          <g key={t}>
            <line x1={44} x2={WIDTH} y1={y(t)} y2={y(t)} className="stroke-line" />
            <text x={36} y={y(t) + 4} textAnchor="end" className="fill-ink-2 text-[12px] tabular-nums">
              {number(t)}
            </text>
          </g>
        ))}
        {days.map((d) => {
          const left = x(String(d.at)) ?? 0;
          const w = wallOf(zone, d.at);
          return (
            <g key={d.at}>
              <rect
                x={left}
                width={x.bandwidth()}
                y={y(d.inside)}
                height={BASE - y(d.inside)}
                className="fill-spruce"
              />
              <rect
                x={left}
                width={x.bandwidth()}
                y={y(d.inside + d.joiners)}
                height={y(d.inside) - y(d.inside + d.joiners)}
                className="fill-spruce-mid"
              />
              <text
                x={left + x.bandwidth() / 2}
                y={BASE + 15}
                textAnchor="middle"
                className={`text-[11px] ${w.weekday === 0 || w.weekday === 6 ? 'fill-ink-2' : 'fill-ink'}`}
              >
                {w.day}
              </text>
              <text x={left + x.bandwidth() / 2} y={BASE + 28} textAnchor="middle" className="fill-ink-2 text-[10px]">
                {WEEKDAYS[w.weekday]?.slice(0, 2)}
              </text>
            </g>
          );
        })}
      </svg>
      <table className="sr-only">
        <caption>Emails by day</caption>
        <thead>
          <tr>
            <th>Day</th>
            <th>To people inside now</th>
            <th>To people still to begin</th>
          </tr>
        </thead>
        <tbody>
          {days.map((d) => (
            <tr key={d.at}>
              <td>{dateWords(zone, d.at)}</td>
              <td>{d.inside}</td>
              <td>{d.joiners}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** How many people each offer is expected to be given to in that time. */
function Codes({ data }: { data: ForecastAnswer }) {
  const around = useAround(['offers']);
  const given = (around?.offers ?? [])
    .map((o) => ({ ...o, n: Math.round((data.offers[o.id] ?? []).reduce((a, b) => a + b, 0)) }))
    .filter((o) => o.n > 0);
  if (given.length === 0) return null;
  return (
    <p>
      Offers given in that time:{' '}
      {given.map((o, i) => (
        <span key={o.id}>
          {i > 0 && ', '}
          <Link to={`/offers/${o.id}`} className="font-semibold underline">
            {o.name}
          </Link>{' '}
          to {number(o.n)} {o.n === 1 ? 'person' : 'people'}
          {o.left !== null && o.left < o.n && (
            <span className="text-ochre-text"> (only {number(o.left)} codes left)</span>
          )}
        </span>
      ))}
      .
    </p>
  );
}

/** The volume of the next four weeks over all live sequences. */
export function Everyone({ current }: { current: string }) {
  const { data, error } = useForecastQuery(undefined, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  const [of, setOf] = useState('');
  if (error) return <Empty text={sentence(error)} />;
  if (!data) return <p className="text-ink-2">Leading everybody through the next four weeks …</p>;
  if (data.sequences.length === 0)
    return <Empty text="No sequence is live yet. Once one is, this shows how many emails go out on each day." />;
  const total = (key: 'inside' | 'joiners') =>
    Math.round(
      data.sequences.filter((s) => of === '' || s.id === of).reduce((n, s) => n + s[key].reduce((a, b) => a + b, 0), 0),
    );
  const joiners = data.sequences.filter((s) => of === '' || s.id === of).reduce((n, s) => n + s.joinersPerDay, 0);
  return (
    <Sheet className="flex flex-col gap-3 p-5">
      <div className="flex items-end gap-6">
        <div className="w-72">
          <Choice
            label="Which sequence"
            value={of}
            choose={setOf}
            of={[
              { value: '', label: 'all that are live' },
              ...data.sequences.map((s) => ({
                value: s.id,
                label: `${s.name}${s.id === current ? ' (this one)' : ''}`,
              })),
            ]}
          />
        </div>
        <p className="flex items-center gap-2">
          <i className="size-3 rounded-[3px] bg-spruce" />
          <span>
            <b className="font-semibold">{number(total('inside'))}</b> to people inside now
          </span>
        </p>
        <p className="flex items-center gap-2">
          <i className="size-3 rounded-[3px] bg-spruce-mid" />
          <span>
            <b className="font-semibold">{number(total('joiners'))}</b> to people who are still to begin
          </span>
        </p>
      </div>
      <Bars data={data} of={of} zoneName={me?.workspace.zone ?? 'UTC'} />
      {of === '' && <Codes data={data} />}
      <p className="text-[12px] text-ink-2">
        Expected joiners: {joiners < 10 ? joiners.toFixed(1) : number(Math.round(joiners))} a day, as in the last four
        weeks; one-off sends go to everybody they are for, on their day. Where a way depends on what people do, they are
        taken to do as those before them did. The daily cap and goals reached meanwhile are not reckoned in.
        {data.oneIn > 1 &&
          ` So many are inside that one in ${number(data.oneIn)} of them, chosen by lot, stands for all.`}
      </p>
    </Sheet>
  );
}
