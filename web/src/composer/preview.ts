import { wrap, type Remote } from 'comlink';
import { useEffect, useState } from 'react';
import { sharedOf, type Surroundings } from '@ascenso/contracts';
import type { Email, Unsupported } from '@ascenso/core';
import type { PreviewApi, Rendered } from './preview.worker.ts';
import type { Reading } from './reading.ts';

export type { Rendered };

let worker: Remote<PreviewApi> | null = null;
const preview = () =>
  (worker ??= wrap<PreviewApi>(new Worker(new URL('./preview.worker.ts', import.meta.url), { type: 'module' })));

/** What of a finished email is not known by every mail program; undefined while it is looked up. */
export function useSupport(html: string): Unsupported[] | undefined {
  const [found, setFound] = useState<Unsupported[]>();
  useEffect(() => {
    let stale = false;
    void preview()
      .support(html)
      .then((f) => {
        if (!stale) setFound(f);
      });
    return () => {
      stale = true;
    };
  }, [html]);
  return found;
}

/** Rest of the keys before an email is compiled anew, ms. Without one, chromium now and then leaves a frame blank whose source changes key by key. */
const REST_MS = 60;

/** The email as the real compile makes it for one reader, a moment after the last change. */
export function useRendered(
  email: Email | null,
  around: Surroundings | undefined,
  reading: Reading,
  service = false,
): Rendered | null {
  const [rendered, setRendered] = useState<Rendered | null>(null);
  const key = JSON.stringify([email, around?.style, around?.shared, around?.offers, reading, service]);
  useEffect(() => {
    if (!email || !around) return;
    let stale = false;
    const timer = setTimeout(() => {
      void preview()
        .render(
          email,
          around.style,
          { shared: sharedOf(around), service, offers: Object.fromEntries(around.offers.map((o) => [o.id, o.offer])) },
          reading,
        )
        .then((r) => {
          if (!stale) setRendered(r);
        });
    }, REST_MS);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
    // The key stands for all of them: they are plain data.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return rendered;
}
