import { FastForward, Store } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useDispatch } from 'react-redux';
import { Link, useParams, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import type { ClockAnswer, MailboxAnswer } from '@ascenso/contracts';
import { momentWords, zoneOf } from '@ascenso/core';
import { api, sentence, useMeQuery } from '../app/api.ts';
import { useAheadMutation, useClockQuery, useMailboxQuery, useMessageQuery } from './endpoints.ts';
import { Button, buttonClass, EmailFrame, Empty, inputClass, Sheet } from '../ui/index.tsx';

const { useComplainMutation } = api.injectEndpoints({
  endpoints: (b) => ({
    complain: b.mutation<object, number>({
      query: (message) => ({ url: `/outside/mailbox/${message}/complain`, method: 'POST', body: {} }),
      invalidatesTags: ['people'],
    }),
  }),
});

/** Whom the emails of this installation reach. */
const mailWords = ({ mailTo }: Pick<ClockAnswer, 'mailTo'>) =>
  mailTo === null
    ? 'Nothing here reaches a real person.'
    : `Mail leaves the house: ${mailTo} hands it on to whoever it is addressed to.`;

function ClockPanel({ zoneName }: { zoneName: string }) {
  const { data: clock } = useClockQuery(undefined, { pollingInterval: 2_000 });
  const [ahead, { error }] = useAheadMutation();
  const dispatch = useDispatch();
  const was = useRef(false);
  const moving = clock?.moving ?? false;
  useEffect(() => {
    // Arrived: everything counted or listed may be different now.
    if (was.current && !moving) dispatch(api.util.invalidateTags(['sequences', 'people', 'numbers', 'mail', 'around']));
    was.current = moving;
  }, [moving, dispatch]);
  if (!clock) return null;
  const go = async (by: 'hour' | 'day' | 'week') => {
    const answer = await ahead({ by });
    if (answer.error) toast.error(sentence(answer.error));
  };
  return (
    <Sheet className="flex items-center gap-3 p-4">
      <div className="flex-1">
        <h2 className="text-[16px] font-bold">
          {clock.practice ? momentWords(zoneOf(zoneName), clock.now) : 'Real time'}
        </h2>
        <p role="status" className="text-ink-2">
          {moving
            ? 'Moving ahead: everything due on the way happens in order …'
            : clock.practice
              ? `Practice clock, ${zoneName}. ${mailWords(clock)}`
              : `This installation runs on the real clock. ${mailWords(clock)}`}
        </p>
        {error && (
          <p role="alert" className="font-semibold text-brick">
            {sentence(error)}
          </p>
        )}
      </div>
      {clock.practice &&
        (['hour', 'day', 'week'] as const).map((by) => (
          <Button key={by} disabled={moving} onClick={() => void go(by)}>
            <FastForward size={15} aria-hidden="true" />
            Ahead {by === 'hour' ? 'an' : 'a'} {by}
          </Button>
        ))}
    </Sheet>
  );
}

function Message({ id, zoneName }: { id: number; zoneName: string }) {
  const { data, error } = useMessageQuery(id);
  const [view, setView] = useState<'html' | 'text' | 'source'>('html');
  const [complainAbout] = useComplainMutation();
  const complain = async () => {
    const answer = await complainAbout(id);
    if (answer.error) toast.error(sentence(answer.error));
    else toast('Their mail program sends you a report: they get no more marketing.');
  };
  if (error) return <Empty text={sentence(error)} />;
  if (!data) return <p className="p-5 text-ink-2">Opening …</p>;
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="border-b border-line p-4">
        <h2 className="text-[17px] font-bold">{data.subject}</h2>
        <p className="text-ink-2">
          {data.from} to {data.to} · {momentWords(zoneOf(zoneName), data.at)}
        </p>
        <div className="mt-2 flex items-center gap-1">
          {(['html', 'text', 'source'] as const).map((v) => (
            <button
              key={v}
              type="button"
              aria-pressed={view === v}
              onClick={() => setView(v)}
              className={`rounded-full px-3 py-1 text-[13px] font-semibold ${view === v ? 'bg-spruce-tint text-spruce-deep' : 'text-ink-2'}`}
            >
              {{ html: 'HTML', text: 'Text', source: 'Source' }[v]}
            </button>
          ))}
          <Button tone="quiet" className="ml-auto !min-h-6 !py-0.5" onClick={() => void complain()}>
            Call it spam
          </Button>
          {data.unsubscribe && (
            <a href={data.unsubscribe} target="_blank" rel="noreferrer" className="text-[13px] underline">
              Unsubscribe page
            </a>
          )}
        </div>
      </div>
      {view === 'html' ? (
        <EmailFrame links title={`Message: ${data.subject}`} html={data.html ?? ''} className="min-h-0 w-full flex-1" />
      ) : (
        <pre tabIndex={0} className="min-h-0 flex-1 overflow-auto p-4 text-[12px] whitespace-pre-wrap">
          {view === 'text' ? data.text : data.source}
        </pre>
      )}
    </div>
  );
}

const countOf = ({ messages: { length }, more }: MailboxAnswer) =>
  more ? `the latest ${length}` : `${length} ${length === 1 ? 'message' : 'messages'}`;

/** The simulated outside world: the clock, and everybody's mailbox. */
export function OutsideScreen() {
  const { message } = useParams();
  const [params, setParams] = useSearchParams();
  const q = params.get('q') ?? '';
  const { data: me } = useMeQuery();
  const { data: clock } = useClockQuery();
  const { data, error } = useMailboxQuery(q, { pollingInterval: 4_000, refetchOnMountOrArgChange: true });
  const zoneName = me?.workspace.zone ?? 'UTC';
  return (
    <div className="flex min-h-0 flex-1 flex-col gap-4 p-6">
      <div className="flex items-center gap-3">
        <h1 className="flex-1 text-[24px] font-bold">Outside world</h1>
        {clock?.shop && (
          <a href={clock.shop} target="_blank" rel="noreferrer" className={buttonClass()}>
            <Store size={15} aria-hidden="true" />
            The simulated shop
          </a>
        )}
      </div>
      <ClockPanel zoneName={zoneName} />
      <Sheet className="flex min-h-[420px] flex-1 overflow-hidden">
        <div className="flex w-80 shrink-0 flex-col border-r border-line">
          <div className="border-b border-line p-3">
            <h2 className="mb-2 text-[15px] font-bold">
              Mailbox <span className="font-sans text-[13px] font-normal text-ink-2">{data && countOf(data)}</span>
            </h2>
            <input
              aria-label="Find by address"
              placeholder="Find by address"
              value={q}
              onChange={(e) => setParams(e.target.value ? { q: e.target.value } : {}, { replace: true })}
              className={inputClass}
            />
          </div>
          {error && <Empty text={sentence(error)} />}
          {data?.messages.length === 0 && (
            <Empty text="No mail yet. Publish a sequence, add a person, and move the clock ahead." />
          )}
          <ul className="min-h-0 flex-1 overflow-y-auto">
            {data?.messages.map((m) => (
              <li key={m.id}>
                <Link
                  to={`/outside/${m.id}${q ? `?q=${encodeURIComponent(q)}` : ''}`}
                  aria-current={String(m.id) === message}
                  className={`block border-b border-line px-3 py-2 ${String(m.id) === message ? 'bg-spruce-tint' : 'hover:bg-paper-2'}`}
                >
                  <p className="flex justify-between gap-2 text-[12px] text-ink-2">
                    <span className="truncate">{m.to}</span>
                    <span className="shrink-0">{momentWords(zoneOf(zoneName), m.at)}</span>
                  </p>
                  <p className="truncate font-semibold">{m.subject}</p>
                </Link>
              </li>
            ))}
          </ul>
        </div>
        <div className="min-w-0 flex-1">
          {message ? (
            <Message key={message} id={Number(message)} zoneName={zoneName} />
          ) : (
            <Empty text="Choose a message to read it as the person who got it. Opening it here counts as opened; links lead through the tracking." />
          )}
        </div>
      </Sheet>
    </div>
  );
}
