import { useMeQuery, sentence } from '../app/api.ts';
import type { ReactNode } from 'react';
import { momentWords, zoneOf } from '@ascenso/core';
import { Link } from 'react-router';
import type { Who } from '@ascenso/contracts';
import { readAs, useAct } from '../app/store.ts';
import { number } from '../ui/index.tsx';
import { useForeseeQuery } from './endpoints.ts';

const people = (n: number) => `${number(n)} ${n === 1 ? 'person' : 'people'}`;

/** What would come of adding people to a sequence by hand, before it is done: who gets what, when, and as whom to read it. */
export function WhatComes({
  id,
  who,
  action,
}: {
  id: string;
  who: Who;
  /** What does it, offered where somebody would enter. */
  action?: ReactNode;
}) {
  const { data, error, isFetching } = useForeseeQuery({ id, who }, { refetchOnMountOrArgChange: true });
  const { data: me } = useMeQuery();
  const act = useAct();
  if (error)
    return (
      <p role="alert" className="font-semibold text-brick">
        {sentence(error)}
      </p>
    );
  if (!data || isFetching) return <p className="text-ink-2">Looking at what would come of it …</p>;
  const zone = zoneOf(me?.workspace.zone ?? 'UTC');
  const silent = data.enter - data.emails.reduce((sum, e) => sum + e.people, 0);
  return (
    <div className="flex flex-col gap-1 rounded-card bg-paper-2 px-3 py-2" role="status">
      {data.seen < data.asked && (
        <p className="text-ink-2">
          Looked at for the first {number(data.seen)} of {number(data.asked)}:
        </p>
      )}
      {data.enter === 0 && (
        <p>
          {data.asked === 1 ? 'They would not enter: they are' : 'Nobody would enter: all of them are'} inside already,
          have been, or may not.
        </p>
      )}
      {data.emails.map((e) => (
        <p key={e.step}>
          <b className="font-semibold">
            {people(e.people)} {e.people === 1 ? 'gets' : 'get'} “{e.name}”
          </b>{' '}
          {e.from === e.until
            ? `on ${momentWords(zone, e.from)}`
            : `between ${momentWords(zone, e.from)} and ${momentWords(zone, e.until)}`}
          {e.second > 0 && `, ${number(e.second)} of them after another email of that day`}.
        </p>
      ))}
      {silent > 0 && data.enter > 0 && (
        <p>
          {people(silent)} would enter and {silent === 1 ? 'gets' : 'get'} no email within 60 days, as far as is known.
        </p>
      )}
      {data.enter > 0 && data.enter < data.seen && (
        <p className="text-ink-2">
          {number(data.seen - data.enter)} would not enter: they are inside, have been, or may not.
        </p>
      )}
      {data.emails[0] && data.some.length > 0 && (
        <p className="text-ink-2">
          Read it as{' '}
          {data.some.map((p, i) => (
            <span key={p.id}>
              {i > 0 && (i === data.some.length - 1 ? ' or ' : ', ')}
              <Link
                to={`/sequences/${id}/emails/${data.emails[0]?.step}`}
                onClick={() => act(readAs(p.id))}
                className="underline"
              >
                {p.email}
              </Link>
            </span>
          ))}
          .
        </p>
      )}
      {data.enter > 0 && action && <div className="mt-1 flex justify-end">{action}</div>}
    </div>
  );
}
