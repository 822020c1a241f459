import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { LandingRequest, Rehearsal, RehearsalRequest } from '@ascenso/core';
import type { RehearsalApi } from './rehearsal.worker.ts';

let remote: Remote<RehearsalApi> | null = null;

/** One worker for the whole page, begun when it is first needed. */
const worker = () =>
  (remote ??= wrap<RehearsalApi>(new Worker(new URL('./rehearsal.worker.ts', import.meta.url), { type: 'module' })));

/** What a worker answers to a request; of two that overlap only the newer is shown. */
function useWorker<Q, A>(request: Q | null, ask: (worker: Remote<RehearsalApi>, request: Q) => Promise<A>): A | null {
  const [result, setResult] = useState<A | null>(null);
  const key = request ? JSON.stringify(request) : null;
  const asked = useRef(ask);
  useEffect(() => {
    if (key === null) return setResult(null);
    let stale = false;
    void asked.current(worker(), JSON.parse(key) as Q).then((r) => {
      if (!stale) setResult(r);
    });
    return () => {
      stale = true;
    };
  }, [key]);
  return result;
}

/** The rehearsal of one person. */
export const useRehearsal = (request: RehearsalRequest | null): Rehearsal | null =>
  useWorker(request, (w, r) => w.rehearse(r));

/** Where each email lands, on every way. */
export const useLandings = (request: LandingRequest | null) => useWorker(request, (w, r) => w.landings(r));
