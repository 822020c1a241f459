import { useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import { useAct } from '../app/store.ts';
import { typingCounted, waits, waitsNoMore } from '../app/typing.ts';

/** A text becomes an edit when its writer pauses this long, ms, and at the latest after the second. */
const PAUSE_MS = 500;
const LONGEST_MS = 3_000;

/** Calls `save` a moment after the last change, and at once when it is told to or the page is left. */
export function useSettling<T>(save: (value: T) => void) {
  const latest = useRef(save);
  latest.current = save;
  const dispatch = useAct();
  const settling = useMemo(() => {
    let pending: { value: T; timer: ReturnType<typeof setTimeout>; since: number } | null = null;
    const drop = () => {
      if (!pending) return;
      clearTimeout(pending.timer);
      pending = null;
      waitsNoMore(flush);
      dispatch(typingCounted());
    };
    const flush = () => {
      if (!pending) return;
      const { value } = pending;
      drop();
      latest.current(value);
    };
    const change = (value: T) => {
      const since = pending?.since ?? Date.now();
      if (pending) clearTimeout(pending.timer);
      else waits(flush);
      const rest = Math.min(PAUSE_MS, since + LONGEST_MS - Date.now());
      const first = pending === null;
      pending = { value, since, timer: setTimeout(flush, Math.max(0, rest)) };
      if (first) dispatch(typingCounted());
    };
    return { change, flush, drop };
  }, [dispatch]);
  useEffect(() => settling.flush, [settling]);
  return settling;
}

/**
 * Tells apart a value that comes back as it was written here, or comes again unchanged with an answer of the server,
 * from one that was changed elsewhere: only that is taken. Answers the place to note what is written here.
 */
export function useForeign(value: string, take: () => void) {
  const own = useRef(value);
  const seen = useRef(value);
  // In the same turn as the change itself: no key can be pressed in between.
  useLayoutEffect(() => {
    if (value === seen.current) return;
    seen.current = value;
    if (value === own.current) return;
    own.current = value;
    take();
  });
  return own;
}
