import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { MINUTE } from '@ascenso/core';
import type { ClockAnswer } from '@ascenso/contracts';
import { useClockQuery } from '../outside/endpoints.ts';
import { useSetStatusMutation } from '../plan/endpoints.ts';
import { Button } from '../ui/index.tsx';
import { sentence } from './api.ts';

const SECOND = 1000;

/** "0:42". */
const counted = (ms: number) =>
  `${Math.floor(ms / MINUTE)}:${String(Math.floor((ms % MINUTE) / SECOND)).padStart(2, '0')}`;

/** The business clock as it runs on between two answers, epoch ms: it stands still where it is said to. */
function useRunning({ now, standing }: ClockAnswer): number {
  const [ahead, setAhead] = useState(0);
  useEffect(() => {
    setAhead(0);
    if (standing) return;
    const since = performance.now();
    const timer = setInterval(() => setAhead(performance.now() - since), SECOND / 2);
    return () => clearInterval(timer);
  }, [now, standing]);
  return now + ahead;
}

function Going({ clock }: { clock: ClockAnswer }) {
  const now = useRunning(clock);
  const [setStatus, { isLoading }] = useSetStatusMutation();
  const hold = async (id: string, name: string) => {
    const answer = await setStatus({ id, status: 'paused' });
    if (answer.error) toast.error(sentence(answer.error));
    else toast.success(`“${name}” is held. Nobody has got it.`);
  };
  return clock.leaving
    .filter(({ at }) => at > now)
    .map(({ id, name, at }) => (
      <section
        key={id}
        aria-label={`${name} is about to go out`}
        className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-ochre-tint px-4 py-1.5 print:hidden"
      >
        <p className="min-w-0 flex-1">
          <Link to={`/sequences/${id}`} className="font-semibold underline">
            {name}
          </Link>{' '}
          {clock.standing ? (
            <>
              goes out once the{' '}
              <Link to="/outside" className="underline">
                practice clock
              </Link>{' '}
              has moved on by {counted(at - now)}.
            </>
          ) : (
            <>
              goes out in{' '}
              <b role="timer" className="font-semibold tabular-nums">
                {counted(at - now)}
              </b>
              .
            </>
          )}{' '}
          Nobody has got it yet.
        </p>
        <Button disabled={isLoading} onClick={() => void hold(id, name)}>
          Hold it
        </Button>
      </section>
    ));
}

/** Said on every screen: a one-off is about to go out, and can be held. */
export function GoingOut() {
  const { data } = useClockQuery(undefined, { pollingInterval: 20_000 });
  return data && data.leaving.length > 0 ? <Going clock={data} /> : null;
}
