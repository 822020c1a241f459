import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import type { Surroundings } from '@ascenso/contracts';
import { plainStyle, type Email, type FilledEmail, type MergeContext } from '@ascenso/core';
import type { PreviewApi } from './preview.worker.ts';

let worker: Remote<PreviewApi> | null = null;
const preview = () =>
  (worker ??= wrap<PreviewApi>(new Worker(new URL('./preview.worker.ts', import.meta.url), { type: 'module' })));

export type Rendered = FilledEmail & { bytes: number };

/** The email as the real compile makes it for one reader, a moment after the last change. */
export function useRendered(
  email: Email | null,
  around: Surroundings | undefined,
  context: MergeContext,
): Rendered | null {
  const [rendered, setRendered] = useState<Rendered | null>(null);
  const key = JSON.stringify([email, around?.style, context]);
  useEffect(() => {
    if (!email || !around) return;
    let stale = false;
    const timer = setTimeout(() => {
      void preview()
        .render(email, { ...plainStyle, ...around.style }, context)
        .then((r) => {
          if (!stale) setRendered(r);
        });
    }, 120);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
    // The key stands for all three: they are plain data.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return rendered;
}
