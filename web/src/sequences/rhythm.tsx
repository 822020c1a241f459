import { scaleSqrt } from 'd3';
import type { RhythmMark } from '@ascenso/contracts';
import { DAY, rateWords } from '@ascenso/core';

const WIDTH = 270;
const HEIGHT = 40;
const BASE = 28;
const TALL = 22;

/** A sequence as its rhythm: a mark per email along a day axis (square-root scale), light for opened, dark for clicked. */
export function Rhythm({ marks: unsorted, width = WIDTH }: { marks: readonly RhythmMark[]; width?: number }) {
  const marks = [...unsorted].sort((a, b) => a.at - b.at);
  const days = Math.max(1, ...marks.map((m) => m.at / DAY));
  const x = scaleSqrt([0, days], [8, width - 16]);
  const said = marks
    .map(
      (m) =>
        `${m.name}: day ${Math.floor(m.at / DAY)}, ${rateWords(m.opened, m.sent)} opened, ${rateWords(m.clicked, m.sent)} clicked`,
    )
    .join('; ');
  const labels = marks.filter((m, i) => i === 0 || x(m.at / DAY) - x((marks[i - 1] as RhythmMark).at / DAY) > 22);
  return (
    <svg width={width} height={HEIGHT} role="img" aria-label={said || 'No emails yet'}>
      <line x1={0} x2={width} y1={BASE} y2={BASE} className="stroke-line" />
      {marks.map((m, i) => {
        const same = marks.slice(0, i).filter((o) => o.at === m.at).length;
        const left = x(m.at / DAY) + same * 9;
        const share = (n: number) => (m.sent ? (n / m.sent) * TALL : 0);
        return (
          <g key={m.step}>
            <rect x={left - 3.5} width={7} y={BASE - 2} height={4} rx={1} className="fill-ink-3" />
            <rect
              x={left - 3.5}
              width={7}
              rx={1.5}
              y={BASE - share(m.opened)}
              height={share(m.opened)}
              className="fill-spruce-mid"
            />
            <rect
              x={left - 3.5}
              width={7}
              rx={1.5}
              y={BASE - share(m.clicked)}
              height={share(m.clicked)}
              className="fill-spruce"
            />
          </g>
        );
      })}
      {labels.map((m) => (
        <text key={m.step} x={x(m.at / DAY)} y={HEIGHT - 1} textAnchor="middle" className="fill-ink-2 text-[10px]">
          {m.at < DAY ? '0' : `${Math.floor(m.at / DAY)}d`}
        </text>
      ))}
    </svg>
  );
}
