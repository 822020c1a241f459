import { call, type Failure, type Request } from '../app/api.ts';

/** Waits between tries, ms: twice as long each time, up to this. */
const FIRST_WAIT = 1_000;
const LONGEST_WAIT = 30_000;

/** Times that a server which fails at a request (500) is asked again: it may fail at this very one for ever. */
const TRIES_AT_500 = 5;

/** What passes by itself, or by signing in again: no answer, a server that stumbles, a session that has ended. */
const passes = ({ status }: Failure, tried: number) =>
  status === 0 || status === 401 || status > 500 || (status === 500 && tried < TRIES_AT_500);

/** Resolves after `ms`, or as soon as the browser is on line again. */
const pause = (ms: number) =>
  new Promise<void>((resolve) => {
    const go = () => {
      clearTimeout(timer);
      window.removeEventListener('online', go);
      resolve();
    };
    const timer = setTimeout(go, ms);
    window.addEventListener('online', go);
  });

/**
 * Sends a request until it is answered with a result or a refusal. `onWaiting` is called with what stands in the way
 * before each pause. The request has to be one that may arrive twice.
 */
export async function persist<T>(
  request: Request,
  onWaiting: (failure: Failure) => void,
): Promise<{ data: T } | { error: Failure }> {
  let wait = FIRST_WAIT;
  for (let tried = 1; ; tried++) {
    const answer = await call<T>(request);
    if ('data' in answer || !passes(answer.error, tried)) return answer;
    onWaiting(answer.error);
    await pause(wait);
    wait = Math.min(LONGEST_WAIT, wait * 2);
  }
}
