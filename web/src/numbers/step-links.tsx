import type { Figure } from '@ascenso/contracts';
import { useState } from 'react';
import { Button, number } from '../ui/index.tsx';
import { useLinksOfStepQuery } from './endpoints.ts';
import { OnTheEmail } from './on-the-email.tsx';

/** Where a link leads, as one reads it: without what campaigns add to an address. */
export function shortTarget(target: string): string {
  if (!/^https?:/.test(target) || !URL.canParse(target)) return target;
  const url = new URL(target);
  for (const name of [...url.searchParams.keys()]) if (name.startsWith('utm_')) url.searchParams.delete(name);
  return `${url.host}${url.pathname === '/' ? '' : url.pathname}${url.search}`;
}

/** What was clicked in an email: each link with its clicks, and the people of one by a click. */
export function StepLinks({
  figure: { sequence, days, link },
  step,
  choose,
}: {
  figure: Figure;
  step: string;
  choose: (link: Figure['link']) => void;
}) {
  const [open, setOpen] = useState(false);
  const { data } = useLinksOfStepQuery({ id: sequence, step, period: days });
  if (!data || data.links.length === 0) return null;
  const most = Math.max(...data.links.map((l) => l.clicks));
  return (
    <>
      <Button className="mb-2 !py-1 text-[13px]" onClick={() => setOpen(true)}>
        Show it on the email
      </Button>
      {open && <OnTheEmail sequence={sequence} step={step} links={data.links} onClose={() => setOpen(false)} />}
      <table className="mb-4 w-full">
        <caption className="pb-1 text-left font-semibold">What was clicked</caption>
        <thead className="text-[12px] text-ink-2">
          <tr>
            <th className="text-left font-semibold">Link</th>
            <th className="text-right font-semibold">People</th>
            <th className="pl-3 text-right font-semibold">Clicks</th>
          </tr>
        </thead>
        <tbody>
          {data.links.map((l) => {
            const chosen = link?.number === l.number && link.repeat === l.repeat;
            return (
              <tr key={`${l.number} ${l.target}`} className="border-t border-line align-top">
                <td className="max-w-0 w-full py-1.5 pr-3">
                  <button
                    type="button"
                    aria-pressed={chosen}
                    title="Only who clicked this"
                    className="block max-w-full truncate font-semibold hover:underline aria-pressed:text-spruce aria-pressed:underline"
                    onClick={() => choose(chosen ? null : { number: l.number, repeat: l.repeat })}
                  >
                    {l.words || shortTarget(l.target)}
                  </button>
                  <p className="truncate text-[12px] text-ink-2">{shortTarget(l.target)}</p>
                  <div
                    className="mt-1 h-1.5 rounded-[3px] bg-spruce"
                    style={{ width: `${(l.clicks / most) * 100}%` }}
                  />
                </td>
                <td className="py-1.5 text-right tabular-nums">{number(l.people)}</td>
                <td className="py-1.5 pl-3 text-right tabular-nums">{number(l.clicks)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
