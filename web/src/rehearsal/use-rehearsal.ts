import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import type { Rehearsal, RehearsalRequest } from '@ascenso/core';
import type { RehearsalApi } from './rehearsal.worker.ts';

let remote: Remote<RehearsalApi> | null = null;
/** One worker for the whole page, begun when it is first needed. */
const worker = () =>
  (remote ??= wrap<RehearsalApi>(new Worker(new URL('./rehearsal.worker.ts', import.meta.url), { type: 'module' })));

/** The rehearsal of a request, made in a worker; of two that overlap only the newer is shown. */
export function useRehearsal(request: RehearsalRequest | null): Rehearsal | null {
  const [result, setResult] = useState<Rehearsal | null>(null);
  const key = request ? JSON.stringify(request) : null;
  useEffect(() => {
    if (key === null) return setResult(null);
    let stale = false;
    void worker()
      .rehearse(JSON.parse(key) as RehearsalRequest)
      .then((r) => {
        if (!stale) setResult(r);
      });
    return () => {
      stale = true;
    };
  }, [key]);
  return result;
}
