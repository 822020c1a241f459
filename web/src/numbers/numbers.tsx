import { scaleLinear } from 'd3';
import { useParams } from 'react-router';
import { dayWords, emailSteps, modeOf, rateWords, reaches, type Reach } from '@ascenso/core';
import { useNumbersQuery } from './endpoints.ts';
import { useApp } from '../app/store.ts';
import { Empty, number, Sheet } from '../ui/index.tsx';

const none = { here: 0, sent: 0, delivered: 0, opened: 0, clicked: 0, left: 0, bounced: 0 };

function Figure({ value, note }: { value: string; note: string }) {
  return (
    <div>
      <p className="font-head text-[22px] leading-7 font-bold tabular-nums">{value}</p>
      <p className="text-[13px] text-ink-2">{note}</p>
    </div>
  );
}

const placeOf = (at: Reach | null | undefined): string => (at ? dayWords(at) : 'never reached');

/** The climb: per email who it went to and what they did, each share over the people it was sent to. */
export function NumbersView() {
  const id = useParams().id as string;
  const doc = useApp((s) => s.draft.doc);
  const { data } = useNumbersQuery(id, { refetchOnMountOrArgChange: true });
  if (!doc || !data) return <p className="p-6 text-ink-2">Counting …</p>;
  if (data.joined === 0) return <Empty text="Nobody has joined yet. Numbers appear with the first person who does." />;
  const reach = reaches(doc);
  const steps = [
    ...emailSteps(doc).map((step) => ({
      id: step.id,
      name: step.name,
      textOnly: modeOf(step.email) === 'text',
      n: data.steps[step.id] ?? none,
      place: placeOf(reach.get(step.id)),
    })),
    ...data.gone.map(({ step, name, textOnly }) => ({
      id: step,
      name,
      textOnly,
      n: data.steps[step] ?? none,
      place: 'no longer in the plan',
    })),
  ];
  const total = (key: keyof typeof none) => steps.reduce((sum, s) => sum + s.n[key], 0);
  const most = Math.max(1, ...steps.map((s) => s.n.sent));
  const width = scaleLinear([0, most], [0, 100]);
  const share = (part: number, of: number) => (
    <td className="py-2 pr-3 text-right tabular-nums">
      <b className="font-semibold">{number(part)}</b>{' '}
      <span className="text-[12px] text-ink-2">{rateWords(part, of)}</span>
    </td>
  );
  return (
    <div
      className="flex flex-col gap-4 overflow-auto p-5"
      tabIndex={0}
      role="region"
      aria-label="Numbers of the sequence"
    >
      <div className="flex flex-wrap gap-8">
        <Figure value={number(data.joined)} note="joined" />
        <Figure value={number(data.inside)} note="inside now" />
        <Figure value={number(data.finished)} note="came to an end" />
        <Figure value={number(total('sent'))} note="emails sent" />
        <Figure
          value={rateWords(total('clicked'), total('sent'))}
          note={`clicked, ${number(total('clicked'))} of ${number(total('sent'))} sent`}
        />
        <Figure value={number(total('left'))} note="unsubscribed" />
      </div>
      <Sheet className="shrink-0 p-5">
        <div className="mb-3 flex items-center gap-4">
          <h2 className="flex-1 text-[15px] font-bold">The climb: who got this far, and what they did</h2>
          {[
            ['bg-[#e3e7e1]', 'sent'],
            ['bg-spruce-mid', 'opened'],
            ['bg-spruce', 'clicked'],
          ].map(([c, t]) => (
            <span key={t} className="flex items-center gap-1.5 text-[12px] text-ink-2">
              <i className={`size-3 rounded-[3px] ${c}`} />
              {t}
            </span>
          ))}
        </div>
        <ul className="flex flex-col gap-3">
          {steps.map(({ id: step, name, n, place, textOnly }) => (
            <li key={step} className="flex items-center gap-4">
              <div className="w-44 shrink-0">
                <p className="truncate font-semibold">{name}</p>
                <p className="text-[12px] text-ink-2">{place}</p>
              </div>
              <div className="min-w-0 flex-1">
                <div
                  className="relative h-6 rounded-[5px] bg-[#e3e7e1]"
                  style={{ width: `${Math.max(width(n.sent), 0.5)}%` }}
                >
                  <span
                    className="absolute inset-y-0 left-0 rounded-[5px] bg-spruce-mid"
                    style={{ width: `${n.sent && !textOnly ? (n.opened / n.sent) * 100 : 0}%` }}
                  />
                  <span
                    className="absolute inset-y-0 left-0 rounded-[5px] bg-spruce"
                    style={{ width: `${n.sent ? (n.clicked / n.sent) * 100 : 0}%` }}
                  />
                </div>
              </div>
              <p className="w-64 shrink-0 text-[13px] text-ink-2 tabular-nums">
                {number(n.sent)} sent · {rateWords(n.clicked, n.sent)} clicked
                {n.left > 0 && <b className="font-semibold text-brick"> · {number(n.left)} left</b>}
              </p>
            </li>
          ))}
        </ul>
      </Sheet>
      <Sheet className="shrink-0 overflow-x-auto">
        <table className="w-full min-w-[52rem]">
          <caption className="sr-only">People per email. Shares are of the people it was sent to.</caption>
          <thead className="bg-paper-2 text-[12px] text-ink-2">
            <tr>
              <th className="py-2 pl-5 text-left font-semibold">Email</th>
              {[
                'Here now',
                'Sent',
                'Delivered, of sent',
                'Opened, of sent',
                'Clicked, of sent',
                'Left, of sent',
                'Bounced, of sent',
              ].map((h) => (
                <th key={h} className="pr-3 text-right font-semibold">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {steps.map(({ id: step, name, n, textOnly }) => (
              <tr key={step} className="border-t border-line">
                <td className="py-2 pl-5 font-semibold">{name}</td>
                <td className="pr-3 text-right tabular-nums">{number(n.here)}</td>
                <td className="pr-3 text-right tabular-nums">{number(n.sent)}</td>
                {share(n.delivered, n.sent)}
                {textOnly ? (
                  <td className="pr-3 text-right text-[13px] text-ink-2">not visible</td>
                ) : (
                  share(n.opened, n.sent)
                )}
                {share(n.clicked, n.sent)}
                {share(n.left, n.sent)}
                {share(n.bounced, n.sent)}
              </tr>
            ))}
          </tbody>
        </table>
      </Sheet>
      <p className="text-[12px] text-ink-2">
        People, not clicks. A click counts as an open; openings that mail programs fetch on their own are left out.
        Tests are not counted. An email of text alone carries no picture, so whether it was opened is not visible.
      </p>
    </div>
  );
}
