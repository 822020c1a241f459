import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import type { Finding } from '@ascenso/contracts';
import { useAroundQuery, useSequenceQuery } from '../app/api.ts';
import { useApp } from '../app/store.ts';
import type { CheckingApi } from './checking.worker.ts';

let worker: Remote<CheckingApi> | null = null;
const checking = () =>
  (worker ??= wrap<CheckingApi>(new Worker(new URL('./checking.worker.ts', import.meta.url), { type: 'module' })));

/** Rest of the keys before the draft is checked anew, ms. */
const REST_MS = 250;

/** Findings about the draft on the screen, renewed as one types. */
export function useFindings(id: string): Finding[] | undefined {
  const doc = useApp((s) => (s.draft.id === id ? s.draft.doc : null));
  const { data: around } = useAroundQuery();
  const { data: about } = useSequenceQuery(id, { refetchOnMountOrArgChange: true });
  const [findings, setFindings] = useState<Finding[]>();
  useEffect(() => {
    if (!doc || !around || !about) return;
    let stale = false;
    const timer = setTimeout(() => {
      void checking()
        .run(id, doc, around, about.tested)
        .then((found) => {
          if (!stale) setFindings(found);
        });
    }, REST_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [id, doc, around, about]);
  return findings;
}
