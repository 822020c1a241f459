import { useState, type ReactNode } from 'react';
import type { Figure, StepNumbers } from '@ascenso/contracts';
import { rateWords } from '@ascenso/core';
import { number } from '../ui/index.tsx';
import { addMoney, moneyPer, moneyWords } from '../ui/money.ts';
import type { ClimbRow, Show } from './climb.tsx';
import { noNumbers } from './none.ts';

interface Column {
  head: string;
  /** Its figure of one email, and of all of them. */
  of: (n: StepNumbers, unseen: ClimbRow['unseen']) => ReactNode;
  what?: Figure['what'];
  /** Shown unless it is chosen away. */
  first?: true;
}

const shared = (part: number, of: number) => (
  <>
    <b className="font-semibold">{number(part)}</b>{' '}
    <span className="text-[12px] text-ink-2">{rateWords(part, of)}</span>
  </>
);
const NOT_VISIBLE = <span className="text-[13px] text-ink-2">not visible</span>;

const COLUMNS: Column[] = [
  { head: 'Money', of: (n) => <b className="font-semibold">{moneyWords(n.money)}</b>, what: 'ordered', first: true },
  { head: 'Money per email sent', of: (n) => moneyPer(n.money, n.sent), first: true },
  { head: 'Orders', of: (n) => number(n.orders), what: 'ordered', first: true },
  {
    head: 'Clicked, of sent',
    of: (n, unseen) => (unseen.clicks && n.clicked === 0 ? NOT_VISIBLE : shared(n.clicked, n.sent)),
    what: 'clicked',
    first: true,
  },
  {
    head: 'Clicked, of opened',
    of: (n, unseen) => (unseen.openings || unseen.clicks ? NOT_VISIBLE : rateWords(n.clicked, n.opened)),
  },
  {
    head: 'Opened, of sent',
    of: (n, unseen) => (unseen.openings ? NOT_VISIBLE : shared(n.opened, n.sent)),
    what: 'opened',
    first: true,
  },
  { head: 'Sent', of: (n) => number(n.sent), what: 'sent', first: true },
  { head: 'Delivered, of sent', of: (n) => shared(n.delivered, n.sent), what: 'delivered' },
  { head: 'Left, of sent', of: (n) => shared(n.left, n.sent), what: 'left', first: true },
  { head: 'Bounced, of sent', of: (n) => shared(n.bounced, n.sent), what: 'bounced', first: true },
  { head: 'Called spam, of sent', of: (n) => shared(n.complained, n.sent), what: 'complained' },
  { head: 'Given up', of: (n) => number(n.failed), what: 'failed' },
  { head: 'Here now', of: (n) => number(n.here), what: 'here', first: true },
  { head: 'Waits for its hour', of: (n) => number(n.held), what: 'held' },
  { head: 'Waits for codes', of: (n) => number(n.awaits), what: 'awaits' },
  { head: 'In the queue', of: (n) => number(n.queued), what: 'queued' },
];

const KEPT = 'numbers.columns';
const keptColumns = (): string[] => {
  const kept = localStorage.getItem(KEPT);
  return kept === null ? COLUMNS.filter((c) => c.first).map((c) => c.head) : kept.split('|');
};

const COUNTS = (Object.keys(noNumbers) as (keyof StepNumbers)[]).filter((k) => typeof noNumbers[k] === 'number');

/** All emails together; why people did not go on is told email by email only. */
const sumOf = (rows: readonly ClimbRow[]): StepNumbers =>
  rows.reduce<StepNumbers>(
    (sum, { n }) => ({
      ...sum,
      ...Object.fromEntries(COUNTS.map((k) => [k, Number(sum[k]) + Number(n[k])])),
      money: addMoney(sum.money, n.money),
    }),
    noNumbers,
  );

/** Every figure of every email, money first; from each to the people behind it. Which columns stand there is remembered. */
export function StepTable({ rows, show }: { rows: readonly ClimbRow[]; show: Show }) {
  const [chosen, setChosen] = useState(keptColumns);
  const columns = COLUMNS.filter((c) => chosen.includes(c.head));
  const choose = (head: string, on: boolean) => {
    const next = on ? [...chosen, head] : chosen.filter((h) => h !== head);
    localStorage.setItem(KEPT, next.join('|'));
    setChosen(next);
  };
  return (
    <>
      <table className="w-full min-w-[52rem]">
        <caption className="sr-only">What came of each email. Shares are of the emails that were sent.</caption>
        <thead className="bg-paper-2 text-[12px] text-ink-2">
          <tr>
            <th className="py-2 pl-5 text-left font-semibold">Email</th>
            {columns.map((c) => (
              <th key={c.head} className="pr-3 text-right font-semibold last:pr-5">
                {c.head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ id, name, n, unseen, note }) => (
            <tr key={id} className="border-t border-line">
              <th scope="row" className="py-2 pl-5 text-left font-semibold">
                {name}
                {note && <p className="max-w-80 text-[12px] font-normal text-ochre-text">Note: {note}</p>}
              </th>
              {columns.map(({ head, of, what }) => (
                <td key={head} className="pr-3 text-right tabular-nums last:pr-5">
                  {what ? (
                    <button
                      type="button"
                      className="hover:underline"
                      onClick={() => show(what, `${head.split(',')[0]}: “${name}”`, { steps: [id] })}
                    >
                      <span className="sr-only">
                        {head} of “{name}”:{' '}
                      </span>
                      {of(n, unseen)}
                    </button>
                  ) : (
                    of(n, unseen)
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
        {rows.length > 1 && (
          <tfoot>
            <tr className="border-t-2 border-line">
              <th scope="row" className="py-2 pl-5 text-left font-semibold">
                All emails
              </th>
              {columns.map(({ head, of }) => (
                <td key={head} className="pr-3 text-right tabular-nums last:pr-5">
                  {of(sumOf(rows), { openings: false, clicks: false })}
                </td>
              ))}
            </tr>
          </tfoot>
        )}
      </table>
      <details className="border-t border-line px-5 py-2 print:hidden">
        <summary className="cursor-pointer text-[13px] text-ink-2">Columns</summary>
        <div className="flex flex-wrap gap-x-5 gap-y-1 py-2">
          {COLUMNS.map(({ head }) => (
            <label key={head} className="flex items-center gap-1.5">
              <input type="checkbox" checked={chosen.includes(head)} onChange={(e) => choose(head, e.target.checked)} />
              {head}
            </label>
          ))}
        </div>
      </details>
    </>
  );
}
