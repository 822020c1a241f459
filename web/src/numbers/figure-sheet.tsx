import { useState } from 'react';
import { Link } from 'react-router';
import type { Figure, FigurePerson } from '@ascenso/contracts';
import { momentWords, zoneOf } from '@ascenso/core';
import { sentence, useMeQuery } from '../app/api.ts';
import { buttonClass, number } from '../ui/index.tsx';
import { amountWords } from '../ui/money.ts';
import { SideSheet } from '../ui/side-sheet.tsx';
import { useFigureQuery } from './endpoints.ts';
import { shortTarget, StepLinks } from './step-links.tsx';
import type { Shown } from './numbers.tsx';

/** Where the people behind a figure can be worked with: tagged, put on a list, exported. */
const peopleAddress = ({ figure, title }: Shown): string =>
  `/people?${new URLSearchParams({ figure: JSON.stringify(figure), behind: title }).toString()}`;

function Person({ p, zone }: { p: FigurePerson; zone: string }) {
  return (
    <li className="border-t border-line py-2 first:border-t-0">
      <div className="flex items-baseline gap-3">
        <Link to={`/people/${p.id}`} className="min-w-0 flex-1 truncate font-semibold hover:underline">
          {p.name || p.email}
        </Link>
        {p.amount !== null && p.currency && (
          <span className="font-semibold tabular-nums">{amountWords(p.amount, p.currency)}</span>
        )}
        <span className="shrink-0 text-[13px] text-ink-2">{momentWords(zoneOf(zone), p.at)}</span>
      </div>
      <p className="truncate text-[13px] text-ink-2">{p.link ? shortTarget(p.link) : p.name ? p.email : ''}</p>
    </li>
  );
}

/** The people behind a figure, with when it happened and which link it was. */
export function FigureSheet({ shown, onClose }: { shown: Shown; onClose: () => void }) {
  const [link, setLink] = useState<Figure['link']>(null);
  const { title } = shown;
  const figure = { ...shown.figure, link };
  const { data, error } = useFigureQuery(figure, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  return (
    <SideSheet
      open
      onClose={onClose}
      title={title}
      foot={
        data &&
        data.total > 0 && (
          <div className="flex flex-wrap gap-2">
            <Link to={peopleAddress({ figure, title })} className={buttonClass('main')}>
              Tag, list or export these people
            </Link>
          </div>
        )
      }
    >
      {error && <p role="alert">{sentence(error)}</p>}
      {!data && !error && <p className="text-ink-2">Looking for them …</p>}
      {data && (
        <>
          {figure.what === 'clicked' && figure.steps[0] !== undefined && (
            <StepLinks figure={figure} step={figure.steps[0]} choose={setLink} />
          )}
          <p className="mb-2 text-ink-2">
            {data.total === 0
              ? 'Nobody who is still known. Whoever was erased is counted, and not shown.'
              : data.total > data.people.length
                ? `The latest ${number(data.people.length)} of ${number(data.total)}.`
                : `${number(data.total)}, the latest first.`}
          </p>
          <ul>
            {data.people.map((p, i) => (
              <Person key={`${p.id} ${p.at} ${i}`} p={p} zone={me?.workspace.zone ?? 'UTC'} />
            ))}
          </ul>
        </>
      )}
    </SideSheet>
  );
}
