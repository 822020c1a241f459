import type { PlanLayout } from './layout.ts';
import { LEFT } from './step-box.tsx';

/** What lies under the steps: the lines between them, and the ruler of days at the left. */
export function Ground({
  layout,
  path,
}: {
  layout: PlanLayout;
  /** Steps that the rehearsed person takes. */
  path: readonly string[] | null;
}) {
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden="true">
        <g transform={`translate(${LEFT} 0)`} fill="none" strokeWidth={2} stroke="#c8c0cb">
          {layout.wires.map((w) => (
            <path
              key={w.id}
              d={w.path}
              className={
                path?.some(
                  (p) =>
                    w.id === `to-${p}` || w.id === `arm-${p}` || (w.id.startsWith('join-') && w.id.endsWith(`-${p}`)),
                )
                  ? 'stroke-spruce'
                  : ''
              }
            />
          ))}
        </g>
      </svg>
      <div className="sticky left-0 z-10 h-0 w-0" aria-hidden={layout.days.length === 0}>
        <div className="absolute top-0 w-[96px] bg-paper" style={{ height: layout.height + 60, minHeight: '100vh' }}>
          <span className="absolute top-0 bottom-0 left-[83px] w-px bg-line" />
          {layout.days.map((d) => (
            <div key={d.y} className="absolute inset-x-0" style={{ top: d.y - 9 }}>
              <p className="absolute left-2 w-16 text-right font-head text-[14px] leading-tight font-bold">{d.text}</p>
              <span className="absolute top-[3px] left-[78px] size-[11px] rounded-full border-2 border-spruce bg-paper" />
            </div>
          ))}
        </div>
      </div>
    </>
  );
}
