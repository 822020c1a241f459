import { useSearchParams, Link } from 'react-router';
import { LETTERS, type ResultFigures, type ResultsAnswer, type SequenceResult } from '@ascenso/contracts';
import { dayNumber, rateWords, zoneOf } from '@ascenso/core';
import { sentence, useMeQuery } from '../app/api.ts';
import { MoneyNote } from '../numbers/money-rules.tsx';
import { against } from '../numbers/against.ts';
import { PeriodChoice } from '../numbers/period-choice.tsx';
import { dayWords, periodIn } from '../numbers/periods.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { Empty, number, Sheet } from '../ui/index.tsx';
import { addMoney, amountWords, moneyWords } from '../ui/money.ts';
import { Arriving } from './arriving.tsx';
import { ByLabel } from './by-label.tsx';
import { Bars, type Layer } from './bars.tsx';
import { Codes } from './codes.tsx';
import { useResultsQuery } from './endpoints.ts';
import { ResultsHead } from './head.tsx';
import { stretchesOf, type Stretch } from './stretches.ts';

/** Sequences with a layer of their own; the others are one. */
const OWN = 4;
const FILLS = [
  ['fill-spruce', 'bg-spruce'],
  ['fill-spruce-mid', 'bg-spruce-mid'],
  ['fill-slate', 'bg-slate'],
  ['fill-plum', 'bg-plum'],
] as const;
const OTHERS = 'others';
const NOBODY = 'nobody';

const sum = (of: readonly ResultFigures[]): ResultFigures =>
  of.reduce<ResultFigures>(
    (all, s) => ({
      orders: all.orders + s.orders,
      mailed: all.mailed + s.mailed,
      money: addMoney(all.money, s.money),
    }),
    { orders: 0, mailed: 0, money: {} },
  );

function Headline({ title, value, note }: { title: string; value: string; note: string }) {
  return (
    <div className="min-w-44 flex-1 rounded-sheet border border-line bg-sheet px-4 py-3">
      <p className="text-[13px] text-ink-2">{title}</p>
      <p className="font-head text-[22px] leading-7 font-bold tabular-nums">{value}</p>
      <p className="text-[13px] text-ink-2">{note}</p>
    </div>
  );
}

function layersOf(sequences: readonly SequenceResult[]): { layers: Layer[]; of: (id: string | null) => string } {
  const own = sequences.filter((s) => s.id !== null && s.orders > 0);
  const named = own.slice(0, OWN);
  const keys = new Set(named.map((s) => s.id));
  return {
    layers: [
      ...named.map((s, i) => ({
        key: s.id ?? NOBODY,
        name: s.name,
        fill: FILLS[i]?.[0] ?? '',
        swatch: FILLS[i]?.[1] ?? '',
      })),
      ...(own.length > OWN ? [{ key: OTHERS, name: 'Other sequences', fill: 'fill-ochre', swatch: 'bg-ochre' }] : []),
      { key: NOBODY, name: 'By no email', fill: 'fill-line', swatch: 'bg-line' },
    ],
    of: (id) => (id === null ? NOBODY : keys.has(id) ? id : OTHERS),
  };
}

const within = (s: Stretch) => (d: { day: number }) => d.day >= s.from && d.day <= s.to;

function MoneyOverTime({ data, sequences }: { data: ResultsAnswer; sequences: readonly SequenceResult[] }) {
  const { layers, of } = layersOf(sequences);
  return (
    <Sheet className="p-5">
      <h2 className="mb-2 text-[15px] font-bold">Money over time, by what brought it</h2>
      <Bars
        name="Money over time"
        stretches={stretchesOf(data.days)}
        layers={layers}
        value={(s, l) => data.byDay.filter(within(s)).reduce((n, d) => (of(d.sequence) === l.key ? n + d.money : n), 0)}
        words={(n) => amountWords(n, data.currency)}
      />
    </Sheet>
  );
}

function SequenceTable({ sequences, days }: { sequences: readonly SequenceResult[]; days: number }) {
  return (
    <Sheet className="overflow-x-auto">
      <table className="w-full min-w-[44rem]">
        <thead className="bg-paper-2 text-[12px] text-ink-2">
          <tr>
            <th className="py-2 pl-5 text-left font-semibold">What brought it</th>
            <th className="pr-3 text-right font-semibold">Money</th>
            <th className="pr-3 text-right font-semibold">{days} days before</th>
            <th className="pr-3 text-right font-semibold">Orders</th>
            <th className="pr-3 text-right font-semibold">Emails sent</th>
            <th className="pr-5 text-right font-semibold">Orders for each 1,000 emails</th>
          </tr>
        </thead>
        <tbody>
          {sequences.map((s) => (
            <tr key={s.id ?? NOBODY} className="border-t border-line tabular-nums">
              <th scope="row" className="py-2 pl-5 text-left font-semibold">
                {s.id === null || s.id === LETTERS ? (
                  <span className="text-ink-2">{s.id === null ? 'By no email' : 'Letters to one person'}</span>
                ) : (
                  <Link to={`/sequences/${s.id}/numbers`} className="hover:underline">
                    {s.name}
                  </Link>
                )}
              </th>
              <td className="pr-3 text-right font-semibold">{moneyWords(s.money)}</td>
              <td className="pr-3 text-right text-ink-2">{moneyWords(s.before.money)}</td>
              <td className="pr-3 text-right">{number(s.orders)}</td>
              <td className="pr-3 text-right">{s.id === null ? '–' : number(s.mailed)}</td>
              <td className="pr-5 text-right">{s.mailed > 0 ? ((s.orders / s.mailed) * 1000).toFixed(1) : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}

const LIST_LAYERS: Layer[] = [
  { key: 'unsubscribed', name: 'unsubscribed', fill: 'fill-ochre', swatch: 'bg-ochre' },
  { key: 'bounced', name: 'bounced', fill: 'fill-slate', swatch: 'bg-slate' },
  { key: 'complained', name: 'called it spam', fill: 'fill-brick', swatch: 'bg-brick' },
];

function ListHealth({ data }: { data: ResultsAnswer }) {
  const stretches = stretchesOf(data.days);
  const came = data.list.reduce((n, d) => n + d.came, 0);
  const gone = data.list.reduce((n, d) => n + d.unsubscribed + d.bounced + d.complained, 0);
  return (
    <Sheet className="p-5">
      <h2 className="text-[15px] font-bold">The list: who came, and who can no longer be mailed</h2>
      <p className="mb-2 text-ink-2">
        {number(data.people.mailable)} of {number(data.people.all)} people may be mailed now. In this period{' '}
        {number(came)} came and {number(gone)} were lost.
      </p>
      <div className="grid gap-6 lg:grid-cols-2">
        <Bars
          name="Who came"
          stretches={stretches}
          layers={[{ key: 'came', name: 'came', fill: 'fill-spruce', swatch: 'bg-spruce' }]}
          value={(s) => data.list.filter(within(s)).reduce((n, d) => n + d.came, 0)}
          words={number}
        />
        <Bars
          name="Who can no longer be mailed"
          stretches={stretches}
          layers={LIST_LAYERS}
          value={(s, l) =>
            data.list.filter(within(s)).reduce((n, d) => n + d[l.key as 'unsubscribed' | 'bounced' | 'complained'], 0)
          }
          words={number}
        />
      </div>
    </Sheet>
  );
}

/** Words of the groups of people by their points. */
const pointWords = (from: number, next: number | undefined): string =>
  from === 0 ? 'no points' : next === undefined ? `${from} points and more` : `${from} to ${next - 1} points`;

/** How engaged the list is: whoever may be mailed, by what they have done. */
function Engaged({ points }: { points: ResultsAnswer['points'] }) {
  const all = points.reduce((n, p) => n + p.people, 0);
  return (
    <Sheet className="p-5">
      <h2 className="mb-2 text-[15px] font-bold">How engaged they are, by points</h2>
      <dl className="grid grid-cols-[11rem_1fr_8rem] items-center gap-x-3 gap-y-1.5">
        {points.toReversed().map((p, i, list) => (
          <div key={p.from} className="contents">
            <dt>{pointWords(p.from, list[i - 1]?.from)}</dt>
            <dd aria-hidden="true" className="h-4 rounded-[4px] bg-paper-2">
              <div
                className={`h-4 rounded-[4px] ${p.from === 0 ? 'bg-line' : 'bg-spruce'}`}
                style={{ width: `${all === 0 ? 0 : (p.people / all) * 100}%` }}
              />
            </dd>
            <dd className="text-right tabular-nums">
              {number(p.people)} · {rateWords(p.people, all)}
            </dd>
          </div>
        ))}
      </dl>
      <p className="mt-2 text-[12px] text-ink-2">
        Of everybody who may be mailed. What earns points is said under{' '}
        <Link to="/people/attributes" className="underline">
          People, Attributes, points
        </Link>
        .
      </p>
    </Sheet>
  );
}

/** What came back across all sequences, in a period: money first. */
export function ResultsScreen() {
  const [params, setParams] = useSearchParams();
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const today = me && clock ? dayNumber(zoneOf(me.workspace.zone), clock.now) : null;
  const asked =
    params.has('joined') || params.has('from') || params.has('all') ? params : new URLSearchParams({ joined: '30' });
  const period = today === null ? null : periodIn(asked, today);
  const { data, error } = useResultsQuery(period, { refetchOnMountOrArgChange: true, skip: today === null });
  if (error) return <Empty text={sentence(error)} />;
  if (!data || today === null) return <p className="p-8 text-ink-2">Counting …</p>;
  const days = data.days.to - data.days.from + 1;
  const money = (s: SequenceResult) => s.money[data.currency] ?? 0;
  const sequences = data.sequences.toSorted(
    (a, b) => Number(a.id === null) - Number(b.id === null) || money(b) - money(a) || b.mailed - a.mailed,
  );
  const byEmail = sequences.filter((s) => s.id !== null);
  const now = sum(byEmail);
  const before = sum(byEmail.map((s) => s.before));
  const all = sum(sequences);
  const home = (f: ResultFigures) => f.money[data.currency] ?? 0;
  return (
    <div className="flex flex-col gap-4 p-6">
      <ResultsHead words={`${dayWords(data.days.from)} to ${dayWords(data.days.to)}`}>
        <PeriodChoice
          params={asked.has('all') ? new URLSearchParams() : asked}
          period={period}
          today={today}
          ask={(next) => setParams(Object.keys(next).length === 0 ? { all: '1' } : next, { replace: true })}
          words={{
            label: 'Which days',
            all: 'From the first day on',
            last: (n) => `The last ${n} days`,
            own: 'Between …',
          }}
        />
      </ResultsHead>
      <div className="flex flex-wrap gap-3">
        <Headline
          title="Earned by email"
          value={moneyWords(now.money)}
          note={against(home(now), home(before), days, (n) => amountWords(n, data.currency))}
        />
        <Headline
          title="Orders by email"
          value={number(now.orders)}
          note={`${rateWords(now.orders, all.orders)} of all ${number(all.orders)} orders`}
        />
        <Headline
          title="Emails sent"
          value={number(now.mailed)}
          note={against(now.mailed, before.mailed, days, number)}
        />
        <Headline
          title="Orders for each 1,000 emails"
          value={now.mailed > 0 ? ((now.orders / now.mailed) * 1000).toFixed(1) : '–'}
          note={before.mailed > 0 ? `${((before.orders / before.mailed) * 1000).toFixed(1)} before` : 'nothing before'}
        />
      </div>
      <MoneyOverTime data={data} sequences={sequences} />
      <SequenceTable sequences={sequences} days={days} />
      <ByLabel sequences={sequences} sum={sum} />
      <Codes period={period} />
      <ListHealth data={data} />
      <Engaged points={data.points} />
      <Arriving senders={data.senders} period={period} />
      <MoneyNote />
    </div>
  );
}
