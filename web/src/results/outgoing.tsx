import { useState } from 'react';
import { Link } from 'react-router';
import { LETTERS, type ForecastAnswer, type ResultsAnswer } from '@ascenso/contracts';
import { DAY, dayNumber, MONTHS, WEEKDAYS, zoneOf } from '@ascenso/core';
import { sentence, useMeQuery } from '../app/api.ts';
import { dayWords } from '../numbers/periods.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useForecastQuery } from '../sequences/endpoints.ts';
import { Empty, number, Sheet } from '../ui/index.tsx';
import { useResultsQuery } from './endpoints.ts';
import { ResultsHead } from './head.tsx';

/** Weeks of the calendar before this one, and from it on. */
const BEFORE = 2;
const AHEAD = 4;

interface Going {
  id: string;
  name: string;
  oneOff: boolean;
  n: number;
}
interface CalendarDay {
  day: number;
  /** What went out, and what is expected still to. */
  sent: Going[];
  coming: Going[];
  /** People who get two marketing emails or more. */
  twice: number;
}

const total = (of: readonly Going[]) => of.reduce((n, g) => n + g.n, 0);

/** Monday of the week that a day (since 1970, a Thursday) lies in. */
const mondayOf = (day: number) => day - ((day + 3) % 7);

/** Every day of the calendar with what went out on it and what is expected to. */
function daysOf(past: ResultsAnswer, coming: ForecastAnswer, today: number): CalendarDay[] {
  const names = new Map(past.sequences.map((s) => [s.id, s.name]));
  const first = mondayOf(today) - BEFORE * 7;
  return Array.from({ length: (BEFORE + AHEAD) * 7 }, (_, i) => {
    const day = first + i;
    const sent = past.byDay
      .filter((d) => d.day === day && d.mailed > 0 && d.sequence !== null)
      .map((d) => ({
        id: d.sequence ?? '',
        name: d.sequence === LETTERS ? 'Letters to one person' : (names.get(d.sequence) ?? ''),
        oneOff: false,
        n: d.mailed,
      }));
    const at = day - today;
    const expected =
      at < 0
        ? []
        : coming.sequences
            .map((s) => ({ ...s, n: Math.round((s.inside[at] ?? 0) + (s.joiners[at] ?? 0)) }))
            .filter((s) => s.n > 0);
    return {
      day,
      sent: sent.sort((a, b) => b.n - a.n),
      coming: expected.sort((a, b) => Number(b.oneOff) - Number(a.oneOff) || b.n - a.n),
      twice: at < 0 ? 0 : (coming.twice[at] ?? 0),
    };
  });
}

const dateOf = (day: number) => new Date(day * DAY);

function Cell({
  d,
  today,
  most,
  chosen,
  choose,
}: {
  d: CalendarDay;
  today: number;
  most: number;
  chosen: boolean;
  choose: () => void;
}) {
  const [sent, coming] = [total(d.sent), total(d.coming)];
  const date = dateOf(d.day);
  const words = [
    ...(sent > 0 ? [`${number(sent)} sent`] : []),
    ...(coming > 0 ? [`about ${number(coming)} to come`] : []),
    ...(d.twice > 0 ? [`${number(d.twice)} people get two or more`] : []),
  ];
  const oneOffs = d.coming.filter((g) => g.oneOff);
  return (
    <td className={`h-[92px] border border-line p-0 align-top ${d.day === today ? 'bg-spruce-tint' : 'bg-sheet'}`}>
      <button
        type="button"
        aria-pressed={chosen}
        aria-label={`${dayWords(d.day)}: ${words.join(', ') || 'nothing'}`}
        onClick={choose}
        className={`flex size-full flex-col gap-0.5 p-1.5 text-left hover:bg-paper-2 ${chosen ? 'ring-2 ring-spruce ring-inset' : ''}`}
      >
        <span className="flex w-full items-baseline justify-between">
          <b className={`font-head text-[14px] ${d.day < today ? 'text-ink-2' : ''}`}>
            {date.getUTCDate()}
            {date.getUTCDate() === 1 ? ` ${MONTHS[date.getUTCMonth()]?.slice(0, 3)}` : ''}
          </b>
          <span className="text-[12px] text-ink-2 tabular-nums">
            {sent + coming > 0 ? `${coming > 0 ? '~' : ''}${number(sent + coming)}` : ''}
          </span>
        </span>
        <span className="flex h-1.5 w-full overflow-hidden rounded-[3px] bg-paper-2">
          <i className="bg-spruce" style={{ width: `${(sent / most) * 100}%` }} />
          <i className="bg-spruce-mid" style={{ width: `${(coming / most) * 100}%` }} />
        </span>
        {oneOffs.map((g) => (
          <span key={g.id} className="w-full truncate rounded-[4px] bg-slate-tint px-1 text-[12px] text-slate">
            {g.name}
          </span>
        ))}
        {d.twice > 0 && <span className="text-[12px] text-ochre-text">{number(d.twice)} get two</span>}
      </button>
    </td>
  );
}

function Lines({ title, of }: { title: string; of: readonly Going[] }) {
  if (of.length === 0) return null;
  return (
    <table className="w-full">
      <caption className="py-1 text-left text-[13px] text-ink-2">{title}</caption>
      <tbody>
        {of.map((g) => (
          <tr key={g.id} className="border-t border-line">
            <th scope="row" className="py-1.5 text-left font-semibold">
              {g.id === LETTERS ? (
                g.name
              ) : (
                <Link to={`/sequences/${g.id}`} className="hover:underline">
                  {g.name}
                </Link>
              )}
              {g.oneOff && <span className="font-normal text-slate"> · one-off</span>}
            </th>
            <td className="text-right tabular-nums">{number(g.n)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Chosen({ d }: { d: CalendarDay }) {
  return (
    <Sheet className="flex flex-col gap-2 p-5">
      <h2 className="text-[15px] font-bold">{dayWords(d.day)}</h2>
      <Lines title="Sent" of={d.sent} />
      <Lines title="Expected" of={d.coming} />
      {d.sent.length + d.coming.length === 0 && <p className="text-ink-2">Nothing goes out on this day.</p>}
      {d.twice > 0 && (
        <p className="rounded-control bg-ochre-tint px-3 py-2 text-ochre-text">
          {number(d.twice)} {d.twice === 1 ? 'person gets' : 'people get'} two marketing emails or more on this day, as
          things stand. A daily cap moves one of them: that of the sequence with the lower priority.
        </p>
      )}
    </Sheet>
  );
}

/** What went out of late and what is expected to, day by day, over all sequences and one-off sends. */
export function OutgoingScreen() {
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const today = me && clock ? dayNumber(zoneOf(me.workspace.zone), clock.now) : null;
  const first = today === null ? 0 : mondayOf(today) - BEFORE * 7;
  const past = useResultsQuery(
    { from: first, to: today ?? 0 },
    { skip: today === null, refetchOnMountOrArgChange: true },
  );
  const coming = useForecastQuery(undefined, { refetchOnMountOrArgChange: true });
  const [picked, pick] = useState<number | null>(null);
  const error = past.error ?? coming.error;
  if (error) return <Empty text={sentence(error)} />;
  if (today === null || !past.data || !coming.data)
    return <p className="p-8 text-ink-2">Leading everybody through the next four weeks …</p>;
  const days = daysOf(past.data, coming.data, today);
  const most = Math.max(1, ...days.map((d) => total(d.sent) + total(d.coming)));
  const chosen = days.find((d) => d.day === (picked ?? today));
  return (
    <div className="flex flex-col gap-4 p-6">
      <ResultsHead words="What went out in the last two weeks, and what is expected in the next four." />
      <div className="grid grid-cols-1 items-start gap-4 lg:grid-cols-[minmax(0,1fr)_20rem]">
        <div className="overflow-x-auto">
          <table className="w-full min-w-[44rem] table-fixed border-collapse">
            <caption className="sr-only">What goes out, by day</caption>
            <thead className="text-[12px] text-ink-2">
              <tr>
                {[1, 2, 3, 4, 5, 6, 0].map((w) => (
                  <th key={w} className="pb-1 text-left font-semibold">
                    {WEEKDAYS[w]?.slice(0, 3)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {Array.from({ length: BEFORE + AHEAD }, (_, week) => (
                <tr key={week}>
                  {days.slice(week * 7, week * 7 + 7).map((d) => (
                    <Cell
                      key={d.day}
                      d={d}
                      today={today}
                      most={most}
                      chosen={d.day === chosen?.day}
                      choose={() => pick(d.day)}
                    />
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-2 flex flex-wrap items-center gap-x-4 text-[12px] text-ink-2">
            <span className="flex items-center gap-1.5">
              <i className="size-2.5 rounded-[3px] bg-spruce" /> sent
            </span>
            <span className="flex items-center gap-1.5">
              <i className="size-2.5 rounded-[3px] bg-spruce-mid" /> expected: people inside, one-off sends, and as many
              joiners as in the last four weeks
            </span>
          </p>
        </div>
        {chosen && <Chosen d={chosen} />}
      </div>
    </div>
  );
}
