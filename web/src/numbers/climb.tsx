import { scaleLinear } from 'd3';
import type { Figure, StepNumbers } from '@ascenso/contracts';
import { rateWords, type Between } from '@ascenso/core';
import { number, Sheet } from '../ui/index.tsx';
import { moneyWords } from '../ui/money.ts';
import { reasonWords } from './reason-words.ts';

/** One email of the climb. */
export interface ClimbRow {
  id: string;
  name: string;
  /** What cannot be told of it. */
  unseen: { openings: boolean; clicks: boolean };
  /** What somebody noted at its step. */
  note: string;
  n: StepNumbers;
  /** When it goes: "Day 4". */
  place: string;
  /** What became of people between it and the next; null for an email that is no longer in the plan. */
  after: Between | null;
}

export type Show = (what: Figure['what'], title: string, more?: Partial<Figure>) => void;

const KEY = [
  ['bg-[#e3e7e1]', 'sent'],
  ['bg-spruce-mid', 'opened'],
  ['bg-spruce', 'clicked'],
] as const;

/** What became of those who did not go on, each with the people behind it. */
function Gap({ between, show }: { between: Between; show: Show }) {
  const reasons = (of: Between['ended'], words: (why: string) => string) =>
    Object.entries(of).map(([why, g]) => ({ ...g, what: 'reason' as const, why, words: words(why) }));
  const parts = [
    ...(between.waiting.n > 0 ? [{ ...between.waiting, what: 'inside' as const, why: '', words: 'on the way' }] : []),
    ...reasons(between.ended, reasonWords),
    ...reasons(between.kept, (why) => `without the next: ${reasonWords(why)}`),
  ];
  if (parts.length === 0) return null;
  return (
    <li className="ml-44 border-l-2 border-line py-0.5 pl-4 text-[12px] text-ink-2 max-sm:ml-2">
      {parts.map(({ n, steps, what, why, words }, i) => (
        <span key={`${what} ${why}`}>
          {i > 0 && ' · '}
          <button
            type="button"
            className="hover:underline"
            onClick={() => show(what, `${number(n)} ${words}`, { steps, why })}
          >
            {number(n)} {words}
          </button>
        </span>
      ))}
    </li>
  );
}

/** The climb: email by email who got this far, what they did, and what became of the others. */
export function ClimbSheet({
  rows,
  start,
  heldOut,
  notEntered,
  show,
}: {
  rows: readonly ClimbRow[];
  start: Between;
  heldOut: number;
  notEntered: number;
  show: Show;
}) {
  const most = Math.max(1, ...rows.map((r) => r.n.sent));
  const width = scaleLinear([0, most], [0, 100]);
  return (
    <Sheet className="shrink-0 p-5">
      <div className="mb-3 flex flex-wrap items-center gap-4">
        <h2 className="flex-1 text-[15px] font-bold">The climb: who got this far, and what they did</h2>
        {KEY.map(([color, words]) => (
          <span key={words} className="flex items-center gap-1.5 text-[12px] text-ink-2">
            <i className={`size-3 rounded-[3px] ${color}`} />
            {words}
          </span>
        ))}
        <span className="w-24 text-right text-[12px] text-ink-2 max-sm:hidden">earned</span>
      </div>
      <ul className="flex flex-col gap-1">
        {(heldOut > 0 || notEntered > 0) && (
          <li className="ml-44 border-l-2 border-line py-0.5 pl-4 text-[12px] text-ink-2 max-sm:ml-2">
            {heldOut > 0 && (
              <button type="button" className="hover:underline" onClick={() => show('held-out', 'Who was held out')}>
                {number(heldOut)} held out
              </button>
            )}
            {heldOut > 0 && notEntered > 0 && ' · '}
            {notEntered > 0 && `${number(notEntered)} kept out by its rules`}
          </li>
        )}
        <Gap between={start} show={show} />
        {rows.map((r) => (
          <Row key={r.id} row={r} width={width(r.n.sent)} show={show} />
        ))}
      </ul>
    </Sheet>
  );
}

function Row({
  row: { id, name, unseen, n, place, after },
  width,
  show,
}: {
  row: ClimbRow;
  width: number;
  show: Show;
}) {
  const share = (part: number) => `${n.sent ? (part / n.sent) * 100 : 0}%`;
  return (
    <>
      <li className="flex items-center gap-4 py-1 max-sm:flex-wrap max-sm:gap-x-3 max-sm:gap-y-1">
        <div className="w-40 shrink-0 max-sm:w-full">
          <p className="line-clamp-2 leading-[1.25] font-semibold">{name}</p>
          <p className="text-[12px] text-ink-2">{place}</p>
        </div>
        <div className="min-w-0 flex-1 max-sm:basis-full">
          <div className="relative h-6 rounded-[5px] bg-[#e3e7e1]" style={{ width: `${Math.max(width, 0.5)}%` }}>
            <span
              className="absolute inset-y-0 left-0 rounded-[5px] bg-spruce-mid"
              style={{ width: share(unseen.openings ? 0 : n.opened) }}
            />
            <span className="absolute inset-y-0 left-0 rounded-[5px] bg-spruce" style={{ width: share(n.clicked) }} />
          </div>
        </div>
        <p className="w-60 shrink-0 text-[13px] text-ink-2 tabular-nums max-sm:w-auto max-sm:flex-1">
          {number(n.sent)} sent ·{' '}
          <button
            type="button"
            className="hover:underline"
            onClick={() => show('clicked', `Who clicked in “${name}”`, { steps: [id] })}
          >
            {unseen.clicks && n.clicked === 0 ? 'clicks not counted' : `${rateWords(n.clicked, n.sent)} clicked`}
          </button>
          {n.left > 0 && (
            <button
              type="button"
              className="font-semibold text-brick hover:underline"
              onClick={() => show('left', `Who unsubscribed from “${name}”`, { steps: [id] })}
            >
              &nbsp;· {number(n.left)} left
            </button>
          )}
        </p>
        <button
          type="button"
          disabled={n.orders === 0}
          className="w-24 shrink-0 text-right font-semibold tabular-nums enabled:hover:underline"
          onClick={() => show('ordered', `Who ordered after “${name}”`, { steps: [id] })}
        >
          {moneyWords(n.money)}
        </button>
      </li>
      {after && <Gap between={after} show={show} />}
    </>
  );
}
