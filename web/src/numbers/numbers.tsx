import { Download } from 'lucide-react';
import { useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import type { Figure } from '@ascenso/contracts';
import { climb, dayNumber, dayWords, unseenOf, reaches, type Reach, zoneOf } from '@ascenso/core';
import { useMeQuery } from '../app/api.ts';
import { useApp } from '../app/store.ts';
import { useClockQuery } from '../outside/endpoints.ts';
import { buttonClass, Empty, number, Sheet } from '../ui/index.tsx';
import { amountWords, moneyPer, moneyWords } from '../ui/money.ts';
import { against } from './against.ts';
import { Breakdown } from './breakdown.tsx';
import { ClimbSheet, type ClimbRow } from './climb.tsx';
import { Effect, EffectFigure } from './effect.tsx';
import { useNumbersQuery } from './endpoints.ts';
import { FigureSheet } from './figure-sheet.tsx';
import { Hours } from './hours.tsx';
import { MoneyNote } from './money-rules.tsx';
import { noNumbers } from './none.ts';
import { PeriodChoice } from './period-choice.tsx';
import { inAddress, periodIn } from './periods.ts';
import { ReadOnSheet } from './read-on.tsx';
import { StepTable } from './step-table.tsx';
import { Tests } from './tests.tsx';

/** A figure that was asked for, with what it is called. */
export interface Shown {
  figure: Figure;
  title: string;
}

function Headline({ value, note, onClick }: { value: string; note: string; onClick?: () => void }) {
  const face = (
    <>
      <span className="block font-head text-[22px] leading-7 font-bold tabular-nums">{value}</span>
      <span className="block text-[13px] text-ink-2">{note}</span>
    </>
  );
  return onClick ? (
    <button type="button" onClick={onClick} className="text-left hover:underline">
      {face}
    </button>
  ) : (
    <p>{face}</p>
  );
}

const placeOf = (at: Reach | null | undefined): string => (at ? dayWords(at) : 'never reached');

/** The numbers of a sequence: money first, then who climbed how far, what stands between, and the figures in a table. */
export function NumbersView() {
  const id = useParams().id as string;
  const [params, setParams] = useSearchParams();
  const doc = useApp((s) => s.draft.doc);
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const today = me && clock ? dayNumber(zoneOf(me.workspace.zone), clock.now) : null;
  const period = today === null ? null : periodIn(params, today);
  const { data } = useNumbersQuery({ id, period }, { refetchOnMountOrArgChange: true, skip: today === null });
  const days = period ? period.to - period.from + 1 : 0;
  const before = period && { from: period.from - days, to: period.from - 1 };
  const { data: was } = useNumbersQuery({ id, period: before }, { refetchOnMountOrArgChange: true, skip: !before });
  const [shown, setShown] = useState<Shown | null>(null);
  if (!doc || !data || today === null) return <p className="p-6 text-ink-2">Counting …</p>;
  if (data.joined === 0 && data.heldOut === 0 && !period)
    return <Empty text="Nobody has joined yet. Numbers appear with the first person who does." />;
  const show = (what: Figure['what'], title: string, more: Partial<Figure> = {}) =>
    setShown({ figure: { sequence: id, steps: [], what, why: '', link: null, days: period, ...more }, title });
  const reach = reaches(doc);
  const { start, emails } = climb(doc, data.steps, data.waiting);
  const rows: ClimbRow[] = [
    ...emails.map(({ step, after }) => ({
      id: step.id,
      name: step.name,
      unseen: unseenOf(step.email),
      note: step.note,
      n: data.steps[step.id] ?? noNumbers,
      place: placeOf(reach.get(step.id)),
      after,
    })),
    ...data.gone.map(({ step, name, unseen }) => ({
      id: step,
      name,
      unseen,
      note: '',
      n: data.steps[step] ?? noNumbers,
      place: 'no longer in the plan',
      after: null,
    })),
  ];
  const left = rows.reduce((sum, r) => sum + r.n.left, 0);
  const currency = me?.workspace.currency ?? '';
  // Of other currencies nothing is compared: they are not added up.
  const earlier =
    was &&
    currency in { ...data.money, ...was.money } &&
    against(data.money[currency] ?? 0, was.money[currency] ?? 0, days, (n) => amountWords(n, currency));
  return (
    <div
      className="relative flex flex-col gap-4 overflow-auto p-5"
      tabIndex={0}
      role="region"
      aria-label="Numbers of the sequence"
    >
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3">
        <Headline
          value={moneyWords(data.money)}
          note={`earned by ${number(data.orders)} ${data.orders === 1 ? 'order' : 'orders'}${earlier ? `, ${earlier}` : ''}`}
          onClick={() => show('ordered', 'Who ordered')}
        />
        <Headline value={moneyPer(data.money, data.joined)} note="for each who joined" />
        <EffectFigure id={id} heldOut={data.heldOut} />
        <Headline value={number(data.joined)} note="joined" onClick={() => show('joined', 'Who joined')} />
        <Headline value={number(data.inside)} note="inside now" onClick={() => show('inside', 'Who is inside now')} />
        <Headline
          value={number(data.finished)}
          note="came to an end"
          onClick={() => show('ended', 'Whose passage has ended')}
        />
        {doc.goal && (
          <Headline
            value={number(data.goal)}
            note="reached the goal"
            onClick={() => show('goal', 'Who reached the goal')}
          />
        )}
        <Headline value={number(left)} note="unsubscribed" onClick={() => show('left', 'Who unsubscribed')} />
        <span className="flex-1" />
        <div className="flex flex-wrap items-center gap-2 print:hidden">
          <PeriodChoice
            params={params}
            period={period}
            today={today}
            ask={(next) => setParams(next, { replace: true })}
            words={{
              label: 'Who is counted',
              all: 'Everybody who joined',
              last: (days) => `Joined in the last ${days} days`,
              own: 'Joined between …',
            }}
          />
          <a className={buttonClass()} href={`/api/sequences/${id}/numbers.csv${inAddress(period)}`} download>
            <Download size={15} aria-hidden="true" />
            CSV
          </a>
        </div>
      </div>
      <ClimbSheet rows={rows} start={start} heldOut={data.heldOut} notEntered={data.notEntered} show={show} />
      <Tests id={id} doc={doc} />
      {data.heldOut > 0 && <Effect id={id} />}
      <Sheet className="relative shrink-0 overflow-x-auto">
        <StepTable rows={rows} show={show} />
      </Sheet>
      <Breakdown id={id} emails={rows} />
      <Hours id={id} period={period} />
      <ReadOnSheet id={id} period={period} />
      <MoneyNote />
      <p className="text-[12px] text-ink-2">
        Each email counts once, however often it is opened or clicked; whoever comes through twice is counted for each
        time. A click counts as an open; openings that mail programs fetch on their own are left out. Tests are not
        counted. An email of text alone carries no picture, so whether it was opened is not visible; nor is what an
        email does not count. Days are those of the workspace’s calendar on which people joined.
      </p>
      {shown && <FigureSheet shown={shown} onClose={() => setShown(null)} />}
    </div>
  );
}
