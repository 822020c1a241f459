import { max, scaleBand, scaleLinear } from 'd3';
import { useId, useState } from 'react';
import type { Stretch } from './stretches.ts';

/** What a bar is made of. */
export interface Layer {
  key: string;
  name: string;
  /** Class that fills it, and the one of its sign in the key. */
  fill: string;
  swatch: string;
}

const WIDTH = 900;
const HEIGHT = 180;
const FOOT = 2;

/**
 * Bars of stretches of time, each of layers. What a bar says stands above while it is pointed at or has the focus (left and
 * right go from bar to bar), and all of it in a table behind.
 */
export function Bars({
  name,
  stretches,
  layers,
  value,
  words,
}: {
  name: string;
  stretches: readonly Stretch[];
  layers: readonly Layer[];
  value: (stretch: Stretch, layer: Layer) => number;
  words: (value: number) => string;
}) {
  const [at, setAt] = useState<number | null>(null);
  const table = useId();
  const total = (s: Stretch) => layers.reduce((sum, l) => sum + value(s, l), 0);
  const x = scaleBand<number>()
    .domain(stretches.map((_, i) => i))
    .range([0, WIDTH])
    .padding(0.18);
  const y = scaleLinear([0, Math.max(1, max(stretches, total) ?? 1)], [HEIGHT - FOOT, 8]);
  const told = at === null ? null : stretches[at];
  const go = (to: number) => setAt(Math.max(0, Math.min(stretches.length - 1, to)));
  const ends = [stretches[0], stretches.at(-1)];
  return (
    <figure>
      <div className="mb-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-[12px] text-ink-2">
        {layers.map((l) => (
          <span key={l.key} className="flex items-center gap-1.5">
            <i className={`size-3 rounded-[3px] ${l.swatch}`} />
            {l.name}
          </span>
        ))}
      </div>
      <p aria-live="polite" className="h-5 truncate text-[13px] font-semibold">
        {told &&
          `${told.label}: ${words(total(told))}${layers
            .filter((l) => layers.length > 1 && value(told, l) !== 0)
            .map((l) => ` · ${l.name} ${words(value(told, l))}`)
            .join('')}`}
      </p>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        preserveAspectRatio="none"
        className="h-44 w-full"
        role="img"
        tabIndex={0}
        aria-label={`${name}. Left and right go from bar to bar.`}
        aria-describedby={table}
        onKeyDown={(e) => {
          if (e.key !== 'ArrowLeft' && e.key !== 'ArrowRight') return;
          e.preventDefault();
          go((at ?? (e.key === 'ArrowLeft' ? stretches.length : -1)) + (e.key === 'ArrowLeft' ? -1 : 1));
        }}
        onBlur={() => setAt(null)}
        onPointerLeave={() => setAt(null)}
      >
        <line x1={0} x2={WIDTH} y1={HEIGHT - FOOT} y2={HEIGHT - FOOT} className="stroke-line" />
        {stretches.map((s, i) => {
          let below = 0;
          return (
            <g key={s.from} onPointerEnter={() => setAt(i)}>
              <rect
                x={x(i)}
                width={x.bandwidth()}
                y={0}
                height={HEIGHT - FOOT}
                className={at === i ? 'fill-paper-2' : 'fill-transparent'}
              />
              {layers.map((l) => {
                const n = value(s, l);
                const top = y(below + n);
                const height = y(below) - top;
                below += n;
                return <rect key={l.key} x={x(i)} width={x.bandwidth()} y={top} height={height} className={l.fill} />;
              })}
            </g>
          );
        })}
      </svg>
      <p className="flex justify-between text-[12px] text-ink-2">
        <span>{ends[0]?.label}</span>
        {stretches.length > 1 && <span>{ends[1]?.label}</span>}
      </p>
      <details id={table}>
        <summary className="cursor-pointer text-[13px] text-ink-2">As a table</summary>
        <div className="max-h-72 overflow-auto">
          <table className="w-full">
            <thead className="text-[12px] text-ink-2">
              <tr>
                <th className="text-left font-semibold">When</th>
                {layers.map((l) => (
                  <th key={l.key} className="pl-3 text-right font-semibold">
                    {l.name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {stretches.toReversed().map((s) => (
                <tr key={s.from} className="border-t border-line/60">
                  <td className="py-1">{s.label}</td>
                  {layers.map((l) => (
                    <td key={l.key} className="pl-3 text-right tabular-nums">
                      {words(value(s, l))}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </figure>
  );
}
