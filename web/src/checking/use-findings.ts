import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import type { Finding } from '@ascenso/contracts';
import { useSurroundings } from '../app/around.ts';
import { useSequenceQuery } from '../drafts/endpoints.ts';
import { useApp } from '../app/store.ts';
import type { Written } from '@ascenso/core';
import type { CheckingApi } from './checking.worker.ts';
import type { ForeignApi } from './foreign.worker.ts';

let worker: Remote<CheckingApi> | null = null;
const checking = () =>
  (worker ??= wrap<CheckingApi>(new Worker(new URL('./checking.worker.ts', import.meta.url), { type: 'module' })));

let looking: Remote<ForeignApi> | null = null;
const foreignWords = () =>
  (looking ??= wrap<ForeignApi>(new Worker(new URL('./foreign.worker.ts', import.meta.url), { type: 'module' })));
/** Of which language words are that no dictionary of their email knows, null for none; absent while nobody has looked. */
let foreign: Readonly<Record<string, Written | null>> = {};

/** Rest before other languages are asked, ms: a word that is half written is not looked for. */
const LOOK_MS = 1500;

/** Rest of the keys before the draft is checked anew, ms. */
const REST_MS = 250;

/** Findings about the draft on the screen, renewed as one types. */
export function useFindings(id: string): Finding[] | undefined {
  const doc = useApp((s) => (s.draft.id === id ? s.draft.doc : null));
  const around = useSurroundings();
  const { data: about } = useSequenceQuery(id, { refetchOnMountOrArgChange: true });
  const [findings, setFindings] = useState<Finding[]>();
  const [looked, setLooked] = useState(foreign);
  useEffect(() => {
    if (!doc || !around || !about) return;
    let stale = false;
    const timer = setTimeout(() => {
      void checking()
        .run(id, doc, around, about.tested, foreign)
        .then((found) => {
          if (!stale) setFindings(found);
        });
    }, REST_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [id, doc, around, about, looked]);
  useEffect(() => {
    const words = (findings ?? []).flatMap((f) => (f.word !== undefined && !(f.word in foreign) ? [f.word] : []));
    if (words.length === 0) return;
    let stale = false;
    const timer = setTimeout(() => {
      void foreignWords()
        .languagesOf(words)
        .then((found) => {
          foreign = { ...foreign, ...found };
          if (!stale) setLooked(foreign);
        })
        // Without an answer there is no repair, and everything else is as it is.
        .catch(() => undefined);
    }, LOOK_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [findings]);
  return findings;
}
