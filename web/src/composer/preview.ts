import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
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

/** What an email is drawn with. */
export type Drawn = Pick<Surroundings, 'style' | 'shared' | 'offers'>;

/** The email as the real compile makes it for one reader. While one is made, the newest change waits; those between are left out. */
export function useRendered(
  email: Email | null,
  around: Drawn | undefined,
  reading: Reading,
  service = false,
): Rendered | null {
  const [rendered, setRendered] = useState<Rendered | null>(null);
  const key = JSON.stringify([email, around?.style, around?.shared, around?.offers, reading, service]);
  const latest = useRef({ key, email, around, reading, service });
  latest.current = { key, email, around, reading, service };
  /** What is being made, or was made last. */
  const made = useRef({ key: '', busy: false, gone: false });
  useEffect(() => {
    const state = made.current;
    const make = async (): Promise<void> => {
      const { key: wanted, email: letter, around: near, reading: read, service: plain } = latest.current;
      if (state.busy || state.gone || state.key === wanted || !letter || !near) return;
      state.busy = true;
      state.key = wanted;
      const offers = Object.fromEntries(near.offers.map((o) => [o.id, o.offer]));
      const options = { shared: sharedOf(near), service: plain, offers };
      try {
        const done = await preview().render(letter, near.style, options, read);
        if (!state.gone) setRendered(done);
      } finally {
        state.busy = false;
      }
      return make();
    };
    void make();
  }, [key]);
  useEffect(() => {
    const state = made.current;
    state.gone = false;
    return () => void (state.gone = true);
  }, []);
  return rendered;
}
